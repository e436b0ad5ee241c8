// Runs on PostgreSQL too.
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import express from 'express';
import { rateLimit } from 'express-rate-limit';
import request from 'supertest';
import { isOnPostgres } from '../../testing/database.ts';
import { openStage, type TestStage } from '../../testing/stage.ts';
import { until } from '../../testing/until.ts';
import { HitsRow } from './entity.ts';
import { countedIn } from './hits.ts';
import { unguarded } from '../../testing/unguarded.ts';

const SPAN = 60_000;
let stage: TestStage;
beforeEach(async () => {
  stage = await openStage({ now: '2026-09-10T12:00' });
});
afterEach(() => stage.close());
const em = () => unguarded(stage.orm);

/** A process that answers; paths under /ok succeed. */
function answers(what: string) {
  const app = express();
  app.use(
    rateLimit({
      ...countedIn(stage.orm, what),
      windowMs: SPAN,
      limit: 2,
      skipSuccessfulRequests: true,
      standardHeaders: 'draft-8' as const,
      legacyHeaders: false,
      validate: false,
    }),
  );
  app.use((req, res) => void res.sendStatus(req.path === '/ok' ? 200 : 403));
  return (path = '/') => request(app).get(path);
}

test('tries are counted over all processes where several may answer, what succeeds is not, and each limit by itself', async () => {
  const [one, other, elsewhere] = [answers('sign in'), answers('sign in'), answers('address')];
  const statuses: number[] = [];
  for (const ask of [one, () => one('/ok'), other, one, other]) statuses.push((await ask()).status);
  // Each process counts its own on a database that one has to itself.
  expect(statuses).toEqual(isOnPostgres ? [403, 200, 403, 429, 429] : [403, 200, 403, 403, 403]);
  expect((await elsewhere()).status).toBe(403);
});

test('after its while a count begins anew, and what is over goes', async () => {
  if (!isOnPostgres) return expect(countedIn(stage.orm, 'sign in')).toEqual({});
  const ask = answers('sign in');
  for (let n = 0; n < 3; n++) await ask();
  expect((await ask()).status).toBe(429);
  await em().insert(HitsRow, { name: 'address 10.0.0.1', count: 9, until: Date.now() - 1 });
  await em().nativeUpdate(HitsRow, { name: { $like: 'sign in%' } }, { until: Date.now() - 1 });
  expect((await ask()).status).toBe(403);
  await until(async () => (await em().count(HitsRow)) === 1);
  const left = await em().find(HitsRow, {});
  expect(left.map((h) => h.count)).toEqual([1]);
  expect(left[0]!.until - Date.now()).toBeGreaterThan(SPAN / 2);
});
