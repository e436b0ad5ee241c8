/** What a transaction promises where another process has the database, or a statement was left in it half way. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { SessionRow } from '../../access/entity.ts';
import { openDatabase, readyDatabase } from '../../wiring/database.ts';
import type { Orm } from './orm.ts';
import { inTransaction } from './transaction.ts';
import { unguarded, freely } from '../../testing/unguarded.ts';

let folder: string;
let orm: Orm;
/** As another process has it. */
let other: Orm;
beforeEach(async () => {
  folder = mkdtempSync(join(tmpdir(), 'zest-bell-transaction-'));
  orm = await readyDatabase(join(folder, 'zest-bell.db'));
  other = await openDatabase(join(folder, 'zest-bell.db'));
});
afterEach(async () => {
  await orm.close();
  await other.close();
  rmSync(folder, { recursive: true, force: true });
});

const session = (id: string) => ({ id, data: '{}', account: null, expiresAt: 5 });
const idsSeenBy = async (who: Orm) =>
  (await who.em.fork().find(SessionRow, {}, { orderBy: { id: 'asc' } })).map((r) => r.id);

test('waits while another process writes, and is then there for everybody', async () => {
  let release = () => {};
  const held = new Promise<void>((resolve) => (release = resolve));
  let begun = () => {};
  const isBegun = new Promise<void>((resolve) => (begun = resolve));
  const theirs = inTransaction(other, async (em) => {
    await freely(em).upsert(SessionRow, session('theirs'));
    begun();
    await held;
  });
  await isBegun;
  const ours = inTransaction(orm, (em) => freely(em).upsert(SessionRow, session('ours')));
  release();
  await Promise.all([theirs, ours]);
  expect(await idsSeenBy(other)).toEqual(['ours', 'theirs']);
});

test('that cannot be committed is taken back, and does not keep the lock', async () => {
  let release = () => {};
  const held = new Promise<void>((resolve) => (release = resolve));
  let begun = () => {};
  const isBegun = new Promise<void>((resolve) => (begun = resolve));
  const theirs = inTransaction(other, async () => {
    begun();
    await held;
  });
  await isBegun;
  // Outside a transaction: the driver leaves the statement open that finds the database locked, and no commit passes it.
  await expect(unguarded(orm).upsert(SessionRow, session('loose'))).rejects.toThrow(/locked/);
  release();
  await theirs;
  const first = await inTransaction(orm, (em) => freely(em).upsert(SessionRow, session('first'))).then(
    () => ['first'],
    () => [],
  );
  await inTransaction(other, (em) => freely(em).upsert(SessionRow, session('second')));
  expect(await idsSeenBy(other)).toEqual([...first, 'second']);
});
