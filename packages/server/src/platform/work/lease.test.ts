// Runs on PostgreSQL too.
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { openStage, type TestStage } from '../../testing/stage.ts';
import { LeaseRow } from './entity.ts';
import { LEASE, underLease, untilFree } from './lease.ts';

let stage: TestStage;
beforeEach(async () => {
  stage = await openStage({ now: '2026-09-10T12:00' });
});
afterEach(() => stage.close());
const em = () => stage.orm.em.fork();

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
