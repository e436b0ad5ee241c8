// Runs on PostgreSQL too.
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { openStage, type TestStage } from '../../testing/stage.ts';
import { LeaseRow } from './entity.ts';
import { inTransaction } from '../database/transaction.ts';
import { until } from '../../testing/until.ts';
import { LeaseLost } from '../turns/holding.ts';
import { LEASE, underLease, untilFree } from './lease.ts';
import { unguarded } from '../../testing/unguarded.ts';

let stage: TestStage;
beforeEach(async () => {
  stage = await openStage({ now: '2026-09-10T12:00' });
});
afterEach(() => stage.close());
const em = () => unguarded(stage.orm);

test('work of which there is one is passed by while somebody does it, and free again afterwards, also when it failed', async () => {
  const done: string[] = [];
  const one = await underLease(stage.orm, 'folders', async () => {
    expect(await underLease(stage.orm, 'folders', async () => void done.push('never'))).toBeNull();
    expect(await underLease(stage.orm, 'mailbox', async () => done.push('other'))).toEqual({ result: 1 });
    done.push('one');
    return 'result';
  });
  expect([one, done]).toEqual([{ result: 'result' }, ['other', 'one']]);
  await expect(underLease(stage.orm, 'folders', () => Promise.reject(new Error('no')))).rejects.toThrow('no');
  expect(await em().count(LeaseRow)).toBe(0);
});

test('what a process held that is gone is free a while after its last word', async () => {
  const hold = (until: number) => em().upsert(LeaseRow, { name: 'folders', holder: 'gone', until });
  await hold(Date.now() + LEASE / 2);
  expect(await underLease(stage.orm, 'folders', () => Promise.resolve())).toBeNull();
  await hold(Date.now() - 1000);
  expect(await underLease(stage.orm, 'folders', () => Promise.resolve('done'))).toEqual({ result: 'done' });
});

test('whoever waits for it sees when it is free, and writes nothing meanwhile', async () => {
  const waited: string[] = [];
  let waiting: Promise<unknown> = Promise.resolve();
  await underLease(stage.orm, 'folders', async () => {
    const [held] = await em().find(LeaseRow, {});
    waiting = untilFree(stage.services.reading, 'folders').then(() => waited.push('free'));
    await untilFree(stage.services.reading, 'mailbox');
    expect(await em().find(LeaseRow, {})).toEqual([held]);
    waited.push('done');
  });
  await waiting;
  expect(waited).toEqual(['done', 'free']);
  await em().upsert(LeaseRow, { name: 'folders', holder: 'gone', until: Date.now() - 1000 });
  await untilFree(stage.services.reading, 'folders');
});

const SHORT = 600;

test('work that lasts longer than its lease keeps it', async () => {
  const done = await underLease(
    stage.orm,
    'folders',
    async (lost) => {
      const began = Date.now();
      await until(() => Date.now() - began > 3 * SHORT);
      expect(await underLease(stage.orm, 'folders', () => Promise.resolve(), SHORT)).toBeNull();
      await inTransaction(stage.orm, () => Promise.resolve());
      return lost.aborted;
    },
    SHORT,
  );
  expect(done).toEqual({ result: false });
});

test('work whose lease somebody else has stops at its next transaction, is told, and takes nothing away from them', async () => {
  const steps: string[] = [];
  let lost: AbortSignal | null = null;
  const work = underLease(
    stage.orm,
    'folders',
    async (signal) => {
      lost = signal;
      await inTransaction(stage.orm, () => Promise.resolve(steps.push('first')));
      await em().nativeUpdate(LeaseRow, { name: 'folders' }, { holder: 'another process', until: Date.now() + LEASE });
      await inTransaction(stage.orm, () => Promise.resolve(steps.push('second')));
    },
    SHORT,
  );
  await expect(work).rejects.toThrow(LeaseLost);
  expect(steps).toEqual(['first']);
  expect(lost!.aborted).toBe(true);
  expect(await em().find(LeaseRow, {})).toMatchObject([{ holder: 'another process' }]);
});

test('work that asks nothing of the database is told too', async () => {
  const told = await underLease(
    stage.orm,
    'folders',
    async (lost) => {
      await em().nativeUpdate(LeaseRow, { name: 'folders' }, { holder: 'another process', until: Date.now() + LEASE });
      await until(() => lost.aborted);
      return true;
    },
    SHORT,
  );
  expect(told).toEqual({ result: true });
});
