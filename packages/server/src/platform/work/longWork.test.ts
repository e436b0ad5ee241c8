// Runs on PostgreSQL too.
import { beforeEach, describe, expect, test } from '@jest/globals';
import { EventEmitter } from 'node:events';
import type { Response } from 'express';
import { isOnPostgres } from '../../testing/database.ts';
import { openStage } from '../../testing/stage.ts';
import { until } from '../../testing/until.ts';
import { LeaseRow } from './entity.ts';
import { LongWork } from './longWork.ts';
import { unguarded } from '../../testing/unguarded.ts';

/** Somebody who waits for an answer, and may leave. */
class FakeResponse extends EventEmitter {
  destroyed = false;
  closed = false;
  leave(): void {
    this.closed = true;
    this.emit('close');
  }
}
const somebody = () => new FakeResponse() as FakeResponse & Response;

let work: LongWork;
beforeEach(() => void (work = new LongWork()));

/** Work that a thread does, until it is told to be done. */
function job() {
  let done!: () => void;
  const begun: AbortSignal[] = [];
  const until = new Promise<void>((ready) => (done = ready));
  const aside = async (signal: AbortSignal) => {
    begun.push(signal);
    await until;
    return 'done';
  };
  return { aside, begun, done };
}

describe('work that a thread does', () => {
  test('is done one after the other, and beside what is done here', async () => {
    const [first, second] = [job(), job()];
    const one = work.runAside(1, somebody(), first.aside);
    const two = work.runAside(2, somebody(), second.aside);
    const here = await work.run(3, somebody(), function* () {
      yield;
      return 'here';
    });
    expect(here).toBe('here');
    expect([first.begun.length, second.begun.length]).toEqual([1, 0]);
    first.done();
    expect(await one).toBe('done');
    second.done();
    expect(await two).toBe('done');
    expect(second.begun).toHaveLength(1);
  });

  test('is told when its asker leaves, and never begun for one who has left', async () => {
    const [first, second] = [job(), job()];
    const [asker, other] = [somebody(), somebody()];
    const one = work.runAside(1, asker, first.aside);
    const two = work.runAside(1, other, second.aside);
    const refused = expect(two).rejects.toMatchObject({ code: 'busy' });
    while (first.begun.length === 0) await Promise.resolve();
    other.leave();
    asker.leave();
    first.done();
    await one;
    await refused;
    expect(first.begun[0]!.aborted).toBe(true);
    expect(second.begun).toEqual([]);
    expect(asker.listenerCount('close')).toBe(0);
  });
});

test('one person has four of them at most, of either kind, and others are not held up by that', async () => {
  const slow = job();
  const asked = [1, 2, 3, 4].map(() => work.runAside(1, somebody(), slow.aside));
  const more = () =>
    work.run(1, somebody(), function* () {
      yield;
      return 'more';
    });
  await expect(more()).rejects.toMatchObject({ code: 'tooMuchAtOnce' });
  await expect(work.runAside(1, somebody(), slow.aside)).rejects.toMatchObject({ code: 'tooMuchAtOnce' });
  const other = work.runAside(2, somebody(), slow.aside);
  slow.done();
  expect(await Promise.all([...asked, other])).toHaveLength(5);
  expect(await more()).toBe('more');
});

test('one person has a few at most in all processes that share a database', async () => {
  const stage = await openStage({ now: '2026-09-10T12:00' });
  try {
    const processes = [new LongWork(stage.orm), new LongWork(stage.orm)];
    const jobs = Array.from({ length: 4 }, job);
    const all = jobs.map(({ aside }, i) => processes[i % 2]!.runAside(1, somebody(), aside));
    // On a database of one's own each process counts on its own.
    const taken = isOnPostgres ? 4 : 0;
    await until(async () => (await unguarded(stage.orm).count(LeaseRow)) === taken);
    const more = processes[0]!.runAside(1, somebody(), () => Promise.resolve('more'));
    if (isOnPostgres) await expect(more).rejects.toMatchObject({ code: 'tooMuchAtOnce' });
    const others = processes[1]!.runAside(2, somebody(), () => Promise.resolve('theirs'));
    for (const { done } of jobs) done();
    if (!isOnPostgres) expect(await more).toBe('more');
    expect(await others).toBe('theirs');
    expect(await Promise.all(all)).toEqual(['done', 'done', 'done', 'done']);
    expect(await processes[0]!.runAside(1, somebody(), () => Promise.resolve('later'))).toBe('later');
    expect(await unguarded(stage.orm).count(LeaseRow)).toBe(0);
  } finally {
    await stage.close();
  }
});
