import type { Knex } from '@mikro-orm/knex';
import type { Em } from './orm.ts';

/** Runs a built query and gives its rows; inside a transaction, as part of it. For what entities would make slow. */
export async function rowsOf<Row>(em: Em, query: Knex.QueryBuilder): Promise<Row[]> {
  const rows: unknown = await em.getConnection().execute(query.toQuery(), [], 'all', em.getTransactionContext());
  return rows as Row[];
}
