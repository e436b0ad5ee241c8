/** The log of a database file is copied aside. SQLite documentation, “Write-Ahead Logging” and “PRAGMA wal_checkpoint”. */
import { mkdtempSync, readFileSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import Database from 'libsql';
import { pino } from 'pino';
import { until } from '../../testing/until.ts';
import { LeaseRow } from '../work/entity.ts';
import { openOrm, type Orm } from './orm.ts';
import { whenFree } from './whenFree.ts';
import { copyLogAside, emptyLog, emptyLogOrLater } from './writeAheadLog.ts';

let folder: string;
let file: string;
let orm: Orm;
const logger = pino({ level: 'silent' });

beforeEach(async () => {
  folder = mkdtempSync(join(tmpdir(), 'zest-bell-log-'));
  file = join(folder, 'a.db');
  orm = await openOrm(file, [LeaseRow], { logIsCopied: true });
  await run('create table t (text text)');
});
afterEach(async () => {
  await orm.close();
  rmSync(folder, { recursive: true });
});

const run = (sql: string) => orm.em.getConnection().execute<Record<string, number>[]>(sql);
/** Two thousand pages of 4 KiB and more, twice what SQLite itself would copy within a commit. */
const writeMuch = () =>
  run(
    `insert into t with recursive n(i) as (select 1 union all select i + 1 from n where i < 2000)
     select hex(zeroblob(2000)) || i from n`,
  );
/** SQLite documentation, “Database File Format”, 4.1: the number of times that a log started over, counted from its first. */
const startsOf = (log: string) => readFileSync(log).readUInt32BE(12);
const sizeOf = (path: string) => statSync(path).size;

test('no commit copies the log where a thread does; the thread does it while others go on', async () => {
  await writeMuch();
  const before = sizeOf(file);
  expect(sizeOf(`${file}-wal`)).toBeGreaterThan(8_000_000);
  expect(before).toBeLessThan(100_000);
  const end = copyLogAside(file, logger, 5);
  await until(() => sizeOf(file) > 8_000_000);
  await end();
  expect(await run('select count(*) as n from t')).toEqual([{ n: 2000 }]);
});

test('under a steady load the log starts over instead of growing', async () => {
  await writeMuch();
  const before = startsOf(`${file}-wal`);
  const end = copyLogAside(file, logger, 1);
  // Nothing rests between two writes.
  await until(async () => {
    for (let i = 0; i < 50; i++) await whenFree(() => run('insert into t values (hex(zeroblob(20000)))'));
    return startsOf(`${file}-wal`) > before;
  });
  await end();
});

test('the log is emptied as soon as nobody reads from it any more', async () => {
  await writeMuch();
  const reader = new Database(file);
  reader.exec('begin');
  reader.exec('select count(*) from t');
  await run("insert into t values ('later')");
  const emptied = emptyLog(orm);
  reader.exec('commit');
  reader.close();
  expect(await emptied).toBe(true);
  expect(sizeOf(`${file}-wal`)).toBe(0);
});

test('where somebody reads from it for long, it is emptied beside other work once they are done', async () => {
  await writeMuch();
  const reader = new Database(file);
  reader.exec('begin');
  reader.exec('select count(*) from t');
  await run("insert into t values ('later')");
  await emptyLogOrLater(orm, 0);
  expect(sizeOf(`${file}-wal`)).toBeGreaterThan(0);
  reader.exec('commit');
  reader.close();
  await until(() => sizeOf(`${file}-wal`) === 0);
});
