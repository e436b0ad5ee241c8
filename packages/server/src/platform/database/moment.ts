/** The clock that all processes share: the database's own. SQLite's is that of its one machine. */
import type { Knex } from '@mikro-orm/knex';
import type { Em } from './orm.ts';
import { isOnServer } from './postgres.ts';

/** This moment in the words of either database, in ms since 1970. */
export const MOMENT = {
  server: 'cast(extract(epoch from clock_timestamp()) * 1000 as bigint)',
  file: "cast((julianday('now') - 2440587.5) * 86400000 as integer)",
};

/** This moment as a value of a statement, in ms since 1970. */
export const databaseMoment = (em: Em): Knex.Raw | number =>
  isOnServer(em) ? em.getKnex().raw(MOMENT.server) : Date.now();

/** This moment, in ms since 1970. */
export async function databaseNow(em: Em): Promise<number> {
  if (!isOnServer(em)) return Date.now();
  const [row] = await em.getConnection().execute<{ now: number }[]>(`select ${MOMENT.server} as now`);
  return row!.now;
}
