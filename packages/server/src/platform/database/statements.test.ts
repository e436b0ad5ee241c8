// Runs on PostgreSQL too.
import { afterEach, beforeEach, describe, expect, jest, test } from '@jest/globals';
import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { readyDatabase } from '../../wiring/database.ts';
import { dropDatabase, isOnPostgres, makeDatabase, placeIn } from '../../testing/database.ts';
import { WorkerRow } from '../../mail/outbox/entity.ts';
import { busy } from '../../testing/busy.ts';
import { databaseNow } from './moment.ts';
import type { Orm } from './orm.ts';
import { execute, inPlainTransaction, statementsOf } from './statements.ts';
import { inTransaction } from './transaction.ts';
import { unguarded } from '../../testing/unguarded.ts';
import { workerHolds } from '../../mail/outbox/entity.ts';

let folder: string;
let orm: Orm;
beforeEach(async () => {
  folder = mkdtempSync(join(tmpdir(), 'zest-bell-statements-'));
  await makeDatabase(folder);
  orm = await readyDatabase(placeIn(folder));
});
afterEach(async () => {
  jest.restoreAllMocks();
  await orm.close();
  await dropDatabase(folder);
});

const add = 'insert into worker (id, alive_at) values (?, ?)';
const ids = () =>
  inPlainTransaction(orm, async (s) =>
    (await s.ask<{ id: string }>('select id from worker order by id', [])).map((r) => r.id),
  );

describe('a transaction of plain statements', () => {
  test('writes all or nothing, and the next begins anew', async () => {
    await inPlainTransaction(orm, (s) => execute(s, workerHolds, add, ['a', 1]));
    const failing = inPlainTransaction(orm, async (s) => {
      await execute(s, workerHolds, add, ['b', 1]);
      throw new Error('thought better of it');
    });
    await expect(failing).rejects.toThrow('thought better of it');
    expect(await ids()).toEqual(['a']);
    await inPlainTransaction(orm, (s) => execute(s, workerHolds, add, ['c', 1]));
    expect(await ids()).toEqual(['a', 'c']);
  });

  // SQLite documentation, “PRAGMA synchronous”: 1 is NORMAL, 2 is FULL, which syncs the log with each commit.
  (isOnPostgres ? test.skip : test)('is on the disk at its end where that is asked for, and only then', async () => {
    const how = async (isSynced: boolean) =>
      inPlainTransaction(
        orm,
        async (s) =>
          ((await execute(s, workerHolds, 'pragma synchronous', [])) as { synchronous: number }[])[0]!.synchronous,
        { isSynced },
      );
    expect([await how(false), await how(true), await how(false)]).toEqual([1, 2, 1]);
    const failing = inPlainTransaction(orm, () => Promise.reject(new Error('no')), { isSynced: true });
    await expect(failing).rejects.toThrow('no');
    expect(await how(false)).toBe(1);
  });

  test('tells what goes wrong as the library does, and the statement can be asked again', async () => {
    await inPlainTransaction(orm, (s) => execute(s, workerHolds, add, ['a', 1]));
    const twice = inPlainTransaction(orm, (s) => execute(s, workerHolds, add, ['a', 1]));
    await expect(twice).rejects.toMatchObject({ name: 'UniqueConstraintViolationException' });
    await inPlainTransaction(orm, (s) => execute(s, workerHolds, add, ['b', 1]));
    expect(await ids()).toEqual(['a', 'b']);
  });

  test('waits for one that others have open, and sees what it wrote', async () => {
    const order: string[] = [];
    const first = inTransaction(orm, async (em) => {
      await execute(await statementsOf(em), workerHolds, add, ['a', 1]);
      order.push('first');
    });
    const second = inPlainTransaction(orm, async (s) => {
      await execute(s, workerHolds, add, ['b', 1]);
      order.push('second');
    });
    await Promise.all([first, second]);
    expect(order.toSorted()).toEqual(['first', 'second']);
    expect(await ids()).toEqual(['a', 'b']);
  });
});

describe('statements', () => {
  test('are part of the transaction they are taken from, and of none outside of one', async () => {
    const failing = inTransaction(orm, async (em) => {
      await execute(await statementsOf(em), workerHolds, add, ['a', 1]);
      throw new Error('taken back');
    });
    await expect(failing).rejects.toThrow('taken back');
    expect(await ids()).toEqual([]);
    await expect(statementsOf(unguarded(orm) as never)).rejects.toThrow('part of a transaction');
    const over = await inTransaction(orm, (em) => Promise.resolve(em));
    await expect(statementsOf(over)).rejects.toThrow('already complete');
  });

  test('bind lists, texts by number and the moment in either database', async () => {
    const now = await databaseNow(orm.em);
    await inPlainTransaction(orm, async (s) => {
      await execute(s, workerHolds, `insert into worker (id, alive_at) values ('a', 7), ('b', 8), ('c', 9)`, []);
      const some = await s.ask<{ id: string }>(`select id from worker where ${s.among('id')} order by id`, [
        s.list(['a', 'c', 'x']),
      ]);
      expect(some.map((r) => r.id)).toEqual(['a', 'c']);
      expect(await s.ask(`select id from worker where ${s.among('alive_at')}`, [s.list([])])).toEqual([]);
      const said = await s.ask<{ said: string | null }>(
        `select ${s.textFor('alive_at')} as said from worker order by id`,
        [JSON.stringify({ 7: '250 “ok”', 8: '' })],
      );
      expect(said.map((r) => r.said)).toEqual(['250 “ok”', '', null]);
      const [{ at }] = (await s.ask<{ at: number }>(`select ${s.moment} as at`, [])) as [{ at: number }];
      expect(Math.abs(Number(at) - now)).toBeLessThan(60_000);
    });
  });
});

test('a chain of statements that never waits by itself lets others have their turn all the same', async () => {
  let turns = 0;
  const counting = setInterval(() => turns++, 1);
  try {
    await inTransaction(orm, async (em) => {
      const statements = await statementsOf(em);
      for (let i = 0; i < 4; i++) {
        busy(15);
        await execute(statements, workerHolds, add, [`a${i}`, 1]);
        busy(15);
        await em.count(WorkerRow);
      }
    });
  } finally {
    clearInterval(counting);
  }
  expect(turns).toBeGreaterThanOrEqual(6);
});

test('a file is opened once, however long it is in use', async () => {
  if (isOnPostgres) return;
  await orm.em.getConnection().execute('create temp table mine (n integer)');
  const now = Date.now();
  jest.spyOn(Date, 'now').mockReturnValue(now + 3_600_000);
  expect(await orm.em.getConnection().execute('select * from mine')).toEqual([]);
});
