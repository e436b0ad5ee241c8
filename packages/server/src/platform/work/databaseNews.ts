/** News by PostgreSQL's NOTIFY, heard over a connection of its own, which comes back when it was cut. */
import { setTimeout as wait } from 'node:timers/promises';
import type { Logger } from 'pino';
import { Client } from 'pg';
import type { Orm } from '../database/orm.ts';
import { connectionOf } from '../database/postgresDriver.ts';
import type { News } from './news.ts';

const CHANNEL = 'zest_bell';
/** How long a line that was cut is left alone before it is tried again, in ms. */
const REST = 2_000;

export function databaseNews(url: string, orm: Orm, logger: Logger): News {
  const heard = new Map<string, (() => void)[]>();
  const stop = new AbortController();
  let client: Client | null = null;

  const listening = (async () => {
    while (!stop.signal.aborted) {
      const line = new Client({ ...connectionOf(url, false), idle_in_transaction_session_timeout: 0 });
      let over = () => undefined as void;
      const cut = new Promise<void>((ended) => (over = ended));
      line.on('end', over);
      line.on('error', over);
      stop.signal.addEventListener('abort', over);
      line.on('notification', ({ payload = '' }) => heard.get(payload)?.forEach((tell) => tell()));
      try {
        await line.connect();
        client = line;
        await line.query(`listen ${CHANNEL}`);
        // What was told in the meantime.
        for (const all of heard.values()) for (const tell of all) tell();
        await cut;
      } catch (error) {
        logger.warn({ err: error }, 'news of other processes cannot be received');
      }
      client = null;
      stop.signal.removeEventListener('abort', over);
      await line.end().catch(() => undefined);
      await wait(REST, undefined, { signal: stop.signal, ref: false }).catch(() => undefined);
    }
  })();

  return {
    async tell(topic) {
      await orm.em
        .fork()
        .getConnection()
        .execute('select pg_notify(?, ?)', [CHANNEL, topic])
        .catch((error: unknown) => logger.warn({ err: error }, 'other processes could not be told'));
    },
    on: (topic, tell) => void heard.set(topic, [...(heard.get(topic) ?? []), tell]),
    async close() {
      stop.abort();
      await client?.end().catch(() => undefined);
      await listening;
    },
  };
}
