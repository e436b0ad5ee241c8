import { asTx } from '../../testing/asTx.ts';
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { spawnSync } from 'node:child_process';
import { openStage, type TestStage } from '../../testing/stage.ts';
import { WorkerRow } from './entity.ts';
import { deadWorkers, heartbeat, machine, makeWorkerId } from './worker.ts';
import { LEASE } from '../../platform/work/lease.ts';
import { unguarded } from '../../testing/unguarded.ts';

let stage: TestStage;
beforeEach(async () => {
  stage = await openStage({ now: '2026-09-10T12:00' });
});
afterEach(() => stage.close());
const em = () => unguarded(stage.orm);
const add = (id: string, aliveAt: number) => em().insert(WorkerRow, { id, aliveAt });

test('a process says that it lives, and says so again in its own row alone', async () => {
  const [one, other] = [makeWorkerId(), makeWorkerId()];
  expect(one).not.toBe(other);
  const began = Date.now();
  await heartbeat(asTx(em()), one);
  await add(other, 7);
  const first = (await em().findOneOrFail(WorkerRow, { id: one })).aliveAt;
  expect(first).toBeGreaterThanOrEqual(began);
  await em().nativeUpdate(WorkerRow, { id: one }, { aliveAt: 3 });
  await heartbeat(asTx(em()), one);
  expect((await em().findOneOrFail(WorkerRow, { id: one })).aliveAt).toBeGreaterThanOrEqual(first);
  expect((await em().findOneOrFail(WorkerRow, { id: other })).aliveAt).toBe(7);
  expect(await em().count(WorkerRow)).toBe(2);
});

test('of this machine a process is dead once the system does not know it, or it was silent for a minute', async () => {
  const gone = spawnSync(process.execPath, ['-e', '']).pid;
  const mine = makeWorkerId();
  await add(mine, 0);
  await add(`${machine()}/${process.ppid}/a`, Date.now() - LEASE / 2);
  await add(`${machine()}/${process.ppid}/stopped`, Date.now() - LEASE - 5_000);
  await add(`${machine()}/${gone}/b`, Date.now());
  // An earlier process that had this one's number.
  await add(`${machine()}/${process.pid}/c`, Date.now());
  expect(await deadWorkers(em())).toEqual(
    new Set([`${machine()}/${gone}/b`, `${machine()}/${process.pid}/c`, `${machine()}/${process.ppid}/stopped`]),
  );
});

test('of another machine a process is dead once it has been silent for more than a minute', async () => {
  const now = Date.now();
  // With this process's own number, which says nothing about another machine.
  await add(`elsewhere.example/${process.pid}/a`, now - 61_000);
  await add(`elsewhere.example/${process.ppid}/b`, now - 30_000);
  expect(await deadWorkers(em())).toEqual(new Set([`elsewhere.example/${process.pid}/a`]));
});
