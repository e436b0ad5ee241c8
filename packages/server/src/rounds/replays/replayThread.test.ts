import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import express, { type Express } from 'express';
import pino from 'pino';
import request from 'supertest';
import { runWhole } from '@zest-bell/core/time';
import { makeCourse } from '@zest-bell/core/course';
import { History } from '@zest-bell/core/activity';
import { HistoryFacts } from '@zest-bell/core/measures';
import type { HindsightAnswer, ReplayAnswer } from '@zest-bell/core/exchange';
import { AppError } from '../../platform/errors/errors.ts';
import { problemDetails } from '../../platform/http/http.ts';
import { LongWork } from '../../platform/work/longWork.ts';
import { at, classOf, COURSE, linesOf, ruleOf } from '../../testing/stage.ts';
import { ReplayThread } from './replayThread.ts';
import { WORKS } from './works.ts';

const until = at('2026-11-30T12:00');
const rule = ruleOf();

/** A class of so many students who come every three to nine days. */
function classFacts(many: number): HistoryFacts {
  const course = makeCourse({ ...COURSE, people: classOf(many) });
  const history = new History(course);
  for (let i = 0; i < many; i++) {
    for (let d = i % 5; d < 90; d += 3 + (i % 7)) {
      const visit = at('2026-09-01T10:00') + d * 86_400_000;
      history.addEvent({ person: `s${i}`, kind: 'visit', item: null, at: visit });
    }
  }
  return new HistoryFacts(course, history);
}

/** More than anybody waits for: a quarter of a minute and longer. */
const LONG = {
  rule,
  outcome: ruleOf({ when: { measure: 'daysSinceVisit', is: '>=', value: 6 } }).when,
  at: until,
  vary: { path: 'when.value', values: Array.from({ length: 3000 }, (_, i) => 2 + (i % 20)) },
};

let thread: ReplayThread;
beforeEach(() => void (thread = new ReplayThread(new LongWork())));
afterEach(() => thread.close());

const replayed = async (facts: HistoryFacts) =>
  JSON.parse(await thread.run('replay', facts, { rules: [rule], until })) as ReplayAnswer;
const here = (facts: HistoryFacts) =>
  JSON.parse(JSON.stringify(runWhole(WORKS.replay(facts, { rules: [rule], until })))) as unknown;

test('a replay comes to the same in its thread as here, also when more has become known', async () => {
  const facts = classFacts(30);
  const first = await replayed(facts);
  expect(first).toEqual(here(facts));
  expect(first.nudges).toBeGreaterThan(0);
  facts.history.addEvent({ person: 's0', kind: 'visit', item: null, at: at('2026-11-29T10:00') });
  expect(await replayed(facts)).toEqual(here(facts));
  // Another course that has seen as many events is another course.
  const other = classFacts(31);
  expect(await replayed(other)).toEqual(here(other));
});

test('results come as they are found, and the rest of the server has its own thread for itself', async () => {
  const facts = classFacts(300);
  await replayed(facts);
  const found: unknown[] = [];
  const shares: number[] = [];
  const order = { ...LONG, vary: { path: 'when.value', values: LONG.vary.values.slice(0, 60) } };
  const busyBefore = performance.eventLoopUtilization();
  const answer = JSON.parse(
    await thread.run('hindsight', facts, order, undefined, {
      onFound: (json) => found.push(JSON.parse(json)),
      onShare: (share) => shares.push(share),
    }),
  ) as HindsightAnswer;
  expect(performance.eventLoopUtilization(busyBefore).utilization).toBeLessThan(0.5);
  expect(found).toEqual([{ hindsight: answer.hindsight }]);
  expect(shares).toEqual([...shares].sort((a, b) => a - b));
});

test('a replay that nobody waits for ends, and the next one need not wait for it', async () => {
  const facts = classFacts(200);
  const gone = new AbortController();
  const shared = new Promise<void>((ready) => {
    const long = thread.run('hindsight', facts, LONG, gone.signal, { onShare: () => ready() });
    void expect(long).rejects.toMatchObject({ code: 'busy' });
  });
  await shared;
  gone.abort();
  expect(await replayed(facts)).toEqual(here(facts));
});

test('a thread that is closed or fails takes along what waits for it, and the next replay starts another', async () => {
  const facts = classFacts(50);
  const waiting = expect(thread.run('hindsight', facts, LONG)).rejects.toMatchObject({ code: 'busy' });
  await thread.close();
  await waiting;
  expect(await replayed(facts)).toEqual(here(facts));
});

test('without enough memory a replay fails, and nothing else does', async () => {
  const small = new ReplayThread(new LongWork(), { memory: 4 });
  await expect(small.run('replay', classFacts(5), { rules: [rule], until })).rejects.toThrow(/memory/);
  await small.close();
});

test('a fault of the program is that of one replay', async () => {
  const facts = classFacts(5);
  const broken = { ...rule, when: { measure: 'nothing' } } as never;
  await expect(thread.run('replay', facts, { rules: [broken], until })).rejects.toThrow(/TypeError/);
  expect(await replayed(facts)).toEqual(here(facts));
});

test('a thread that nobody asks ends by itself', async () => {
  const restless = new ReplayThread(new LongWork(), { idle: 1 });
  await restless.run('replay', classFacts(5), { rules: [rule], until });
  while (restless.isThere) await new Promise((later) => setTimeout(later, 1));
  await restless.run('replay', classFacts(5), { rules: [rule], until });
  await restless.close();
});

describe('what is told in lines', () => {
  let app: Express;
  /** In place of the thread: what it says, and how it ends. */
  let run: ReplayThread['run'];
  class RecordedThread extends ReplayThread {
    override run(...given: Parameters<ReplayThread['run']>): Promise<string> {
      return run(...given);
    }
  }
  const serve = (between: number) => {
    const told = new RecordedThread(new LongWork(), { between });
    app = express();
    app.get('/', (_req, res) => told.tell(1, res, 'replay', classFacts(1), { rules: [rule], until }));
    app.use(problemDetails(pino({ level: 'silent' })));
  };

  test.each([
    ['now and then', 0, [{ share: 0.25 }, { share: 0.5 }]],
    ['but not too often', 60_000, []],
  ])('says how much is done, %s, what is found, and the result at last', async (_when, between, shares) => {
    serve(between);
    run = async (_name, _facts, _order, _signal, listener) => {
      for (const share of [0.25, 0.5]) listener!.onShare!(share);
      listener!.onFound!('{"varied":1}');
      return '7';
    };
    const { answer, lines } = await linesOf<number>(request(app).get('/').expect(200));
    expect(answer).toBe(7);
    expect(lines).toEqual([...shares, { varied: 1 }, { answer: 7 }]);
  });

  test('ends with what went wrong after it has begun', async () => {
    serve(0);
    run = async (_name, _facts, _order, _signal, listener) => {
      listener!.onFound!('{"varied":1}');
      throw new AppError('notFound');
    };
    const { lines } = await linesOf(request(app).get('/').expect(200));
    expect(lines).toMatchObject([{ varied: 1 }, { problem: { code: 'notFound', status: 404 } }]);
  });

  test('is refused like any request when it fails before', async () => {
    serve(0);
    run = () => Promise.reject(new AppError('notFound'));
    await request(app).get('/').expect(404);
  });
});
