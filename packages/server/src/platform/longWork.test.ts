import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import express, { type Express } from 'express';
import pino from 'pino';
import request from 'supertest';
import { within, type InParts } from '@zest-bell/core';
import { linesOf } from '../testing/stage.ts';
import { AppError } from './errors.ts';
import { problemDetails } from './http.ts';
import { inTurns, LongWork } from './longWork.ts';

/** Longer than a turn, and than the pause between two words about how far it is. */
function busy(ms: number): void {
  for (const until = performance.now() + ms; performance.now() < until;);
}

describe('long work told in lines', () => {
  let app: Express;
  let work: (tell: (line: object) => void) => InParts<number>;
  beforeEach(() => {
    const long = new LongWork();
    app = express();
    app.get('/', (_req, res) => long.tell(1, res, (tell) => work(tell)));
    app.use(problemDetails(pino({ level: 'silent' })));
  });
  afterEach(() => void (work = undefined as never));

  test('says how much is done, what it has found, and its result at last', async () => {
    work = function* (tell) {
      busy(120);
      yield 0.25;
      tell({ varied: 1 });
      busy(120);
      yield 0.5;
      return 7;
    };
    const { answer, lines } = await linesOf<number>(request(app).get('/').expect(200));
    expect(answer).toBe(7);
    expect(lines).toEqual([{ share: 0.25 }, { varied: 1 }, { share: 0.5 }, { answer: 7 }]);
  });

  test('that fails after it has begun ends with what went wrong', async () => {
    work = function* (tell) {
      tell({ varied: 1 });
      yield;
      throw new AppError('notFound');
    };
    const { lines } = await linesOf(request(app).get('/').expect(200));
    expect(lines).toMatchObject([{ varied: 1 }, { problem: { code: 'notFound', status: 404 } }]);
  });

  test('that fails before is refused like any request', async () => {
    // eslint-disable-next-line require-yield -- it fails before its first part
    work = function* () {
      throw new AppError('notFound');
    };
    await request(app).get('/').expect(404);
  });
});

test('a part of a longer work has its share of the whole', async () => {
  const shares: number[] = [];
  const half = function* (): InParts<string> {
    busy(15);
    yield 0.5;
    busy(15);
    yield;
    busy(15);
    yield 1;
    return 'done';
  };
  const whole = () => within(half(), 0.5, 1);
  expect(await inTurns(whole, undefined, (share) => shares.push(share))).toBe('done');
  expect(shares).toEqual([0.75, 1]);
});

test('ends when nobody waits any more', async () => {
  let parts = 0;
  const work = function* (): InParts<void> {
    for (;;) {
      parts++;
      busy(15);
      yield;
    }
  };
  await expect(inTurns(work, () => parts >= 2)).rejects.toMatchObject({ code: 'busy' });
  expect(parts).toBe(2);
});
