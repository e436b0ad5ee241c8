/** A PostgreSQL database that is looked at before anything is asked of it, and brought up to date by one process at a time. */
import { Client } from 'pg';
import { StartProblem } from '../process/config.ts';
import type { Orm } from './orm.ts';
import { databaseName } from './postgres.ts';
import { connectionOf } from './postgresDriver.ts';

/** The oldest server, as it counts its versions. */
const OLDEST = 150_000;

/** The process that migrates a schema holds this lock of the database. */
const UPGRADE = 1_514_298_241;

/** Throws a StartProblem with what to do where the server cannot be reached, is too old, or keeps texts otherwise than in UTF-8. */
export async function readyServer(url: string, open: () => Promise<Orm>): Promise<Orm> {
  const client = new Client(connectionOf(url, false));
  // A line that is cut fails what waits on it; told apart from that it would end the process.
  client.on('error', () => undefined);
  try {
    await client.connect();
  } catch (error) {
    throw new StartProblem(
      `Zest Bell cannot reach its database “${databaseName(url)}” (${(error as Error).message || 'no answer'}).\n` +
        `See whether the server runs, and whether ZEST_DATABASE_URL names it, its user and its password.`,
    );
  }
  try {
    await mustFit(client);
    await client.query('set lock_timeout = 0');
    // Others that start at this moment wait here, and find it done.
    await client.query(`select pg_advisory_lock(${UPGRADE})`);
    const orm = await open();
    try {
      await orm.getMigrator().up();
    } catch (error) {
      await orm.close();
      throw error;
    }
    return orm;
  } finally {
    // The lock ends with its connection.
    await client.end();
  }
}

async function mustFit(client: Client): Promise<void> {
  const asked =
    "select current_setting('server_version_num') as version, current_setting('server_encoding') as encoding";
  const [found] = (await client.query<{ version: string; encoding: string }>(asked)).rows;
  if (Number(found!.version) < OLDEST) {
    throw new StartProblem('Zest Bell needs PostgreSQL 15 or newer. Name another server with ZEST_DATABASE_URL.');
  }
  if (found!.encoding !== 'UTF8') {
    throw new StartProblem(
      `The database keeps its texts in ${found!.encoding}. Create one with “createdb -E UTF8 -T template0 zest_bell”.`,
    );
  }
}
