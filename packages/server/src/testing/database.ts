/**
 * A database of a test's own: a file in its folder, or, where ZEST_TEST_POSTGRES names the address of a cluster that is thrown away,
 * a database there, of which the folder knows the address.
 */
import { copyFileSync, existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { readyDatabase } from '../wiring/database.ts';
import type { Em } from '../platform/database/orm.ts';

const cluster = process.env['ZEST_TEST_POSTGRES'] ?? null;
/** Whether the tests run on PostgreSQL. */
export const isOnPostgres = cluster !== null;

/** Where a folder's database is. */
export function placeIn(folder: string): string {
  if (!isOnPostgres) return join(folder, 'zest-bell.db');
  return readFileSync(join(folder, ADDRESS), 'utf8');
}

export const hasDatabase = (folder: string): boolean =>
  existsSync(join(folder, isOnPostgres ? ADDRESS : 'zest-bell.db'));

/** Makes a folder's database, with its schema and nothing in it. */
export async function makeDatabase(folder: string): Promise<void> {
  if (!isOnPostgres) return copyFileSync(await emptyFile(), join(folder, 'zest-bell.db'));
  const name = `test_${crypto.randomUUID().replaceAll('-', '')}`;
  await emptyTemplate();
  await administer(`create database ${name} template ${TEMPLATE} strategy file_copy`);
  nameDatabase(folder, at(name));
}

/** From now on a folder's database is the one at this address. */
export const nameDatabase = (folder: string, url: string): void => writeFileSync(join(folder, ADDRESS), url);

/** The address of a new database without a schema, which goes with its cluster. */
export async function bareDatabase(): Promise<string> {
  const name = `bare_${crypto.randomUUID().replaceAll('-', '')}`;
  await administer(`create database ${name}`);
  return at(name);
}

/** The folder is removed, including its database. */
export async function dropDatabase(folder: string): Promise<void> {
  if (isOnPostgres && hasDatabase(folder)) {
    await administer(`drop database ${/\/(test_\w+)/.exec(placeIn(folder))![1]!} with (force)`);
  }
  rmSync(folder, { recursive: true, force: true });
}

/** From now on nothing can be added to a table, as on a disk that is full; or it can again. */
export async function breakTable(em: Em, table: string, isBroken: boolean): Promise<void> {
  const run = (sql: string) => em.getConnection().execute(sql);
  const why = 'the disk is full';
  if (!isOnPostgres) {
    await run(
      isBroken
        ? `create trigger full before insert on ${table} begin select raise(abort, '${why}'); end`
        : 'drop trigger full',
    );
  } else if (isBroken) {
    await run(
      `create function disk_full() returns trigger as $$ begin raise exception '${why}'; end $$ language plpgsql`,
    );
    await run(`create trigger disk_full before insert on "${table}" for each row execute function disk_full()`);
  } else await run('drop function disk_full cascade');
}

const ADDRESS = 'database-address';
/** One for each process that runs tests, whatever file it is at. */
const TEMPLATE = `empty_${process.pid}`;

const at = (database: string): string => cluster!.replace(/\/postgres\b/, `/${database}`);

/** As the cluster's own user, beside any database. */
async function administer(sql: string): Promise<readonly object[]> {
  const { Client } = await import('pg');
  const client = new Client({ connectionString: cluster! });
  await client.connect();
  try {
    return (await client.query<object>(sql)).rows;
  } finally {
    await client.end();
  }
}

let empty: Promise<string> | null = null;

/** Made once by each process that runs tests, whatever file it is at, and copied. */
function emptyFile(): Promise<string> {
  empty ??= (async () => {
    const folder = join(tmpdir(), `zest-bell-empty-${process.pid}-${Math.round(performance.timeOrigin)}`);
    const file = join(folder, 'empty.db');
    if (existsSync(file)) return file;
    mkdirSync(folder, { recursive: true });
    process.once('exit', () => rmSync(folder, { recursive: true, force: true }));
    const orm = await readyDatabase(join(folder, 'made.db'));
    // One file, without a log beside it.
    await orm.em.getConnection().execute('vacuum into ?', [file]);
    await orm.close();
    return file;
  })();
  return empty;
}

let template: Promise<void> | null = null;

function emptyTemplate(): Promise<void> {
  template ??= (async () => {
    const known = await administer(`select 1 from pg_database where datname = '${TEMPLATE}'`);
    if (known.length > 0) return;
    await administer(`create database ${TEMPLATE}`);
    await (await readyDatabase(at(TEMPLATE))).close();
  })();
  return template;
}
