import { afterEach, beforeEach, expect, test } from '@jest/globals';
import type { HindsightAnswer, ReplayAnswer, ReplayEvidence } from '@zest-bell/core';
import { Account } from '../../accounts/entity.ts';
import { hashPassword } from '../../accounts/passwords.ts';
import { NudgeRow } from '../../nudges/entity.ts';
import { at, openStage, PASSWORD, ruleOf, visit, type Agent, type TestStage } from '../../testing/stage.ts';

let stage: TestStage;
let ada: Agent;
beforeEach(async () => {
  stage = await openStage({ now: '2026-09-20T12:00' });
  await stage.tell(['p1', 'p2', 'p3'].map((p) => visit(p, '2026-09-01T10:00')));
  await stage.tell([{ id: 'v-back', person: 'p1', kind: 'visit', at: '2026-09-09T10:00:00-04:00' }]);
  ada = await stage.signIn();
});
afterEach(() => stage.close());

const base = '/api/courses/1/replay';
const replay = async (body: object) => (await ada.post(base).send(body).expect(200)).body as ReplayAnswer;

test('a rule is replayed over the term so far, and nothing is sent or logged', async () => {
  const seen = await replay({ rule: 'away' });
  expect(seen.until).toBe(at('2026-09-20T12:00'));
  expect(seen.students.map((s) => s.student)).toEqual(['p1', 'p2', 'p3']);
  // p1 came back on Sep 9 and was away again: two spells, two nudges.
  expect(seen).toMatchObject({ nudges: 4, reached: 3, most: { student: 'p1', nudges: 2 } });
  expect(await replay({ rule: null })).toMatchObject({ nudges: 4 });
  expect(await stage.orm.em.fork().count(NudgeRow)).toBe(0);
});

test('a change that is not saved is replayed in its place, and one that does not fit is named', async () => {
  const changed = ruleOf({ when: { measure: 'daysSinceVisit', is: '>=', value: 12 } });
  expect(await replay({ rule: 'away', changed })).toMatchObject({ nudges: 2, reached: 2 });
  const gone = ruleOf({ when: { measure: 'score', item: 'q9', is: '<', value: 5 } });
  await ada.post(base).send({ rule: 'away', changed: gone }).expect(400);
  await ada.post(base).send({ rule: 'nobody' }).expect(404);
});

test('a mark opens its evidence as of its round', async () => {
  const order = { rule: 'away', student: 'p1', at: at('2026-09-07T09:30') };
  const { evidence } = (await ada.post(`${base}/evidence`).send(order).expect(200)).body as ReplayEvidence;
  expect(evidence).toMatchObject([{ value: 5, verdict: true, fact: { at: at('2026-09-01T10:00') } }]);
});

test('[O4] hindsight counts, and varies one number over its values', async () => {
  const order = {
    rule: 'away',
    outcome: { measure: 'submitted', item: 'q1', is: 'equals', value: false },
    at: at('2026-09-20T00:00'),
    vary: { path: 'when.value', values: [3, 5, 30] },
  };
  const answer = (await ada.post(`${base}/hindsight`).send(order).expect(200)).body as HindsightAnswer;
  expect(answer.hindsight.counts).toEqual({ found: 3, missed: 0, needless: 0, leftAlone: 0 });
  expect(answer.varied.map((v) => [v.value, v.counts.found])).toEqual([
    [3, 3],
    [5, 3],
    [30, 0],
  ]);
  expect(answer.varied[2]).toMatchObject({ shareRight: null, lead: null });
  await ada
    .post(`${base}/hindsight`)
    .send({ ...order, vary: { path: 'when.none', values: [1] } })
    .expect(400);
  await ada
    .post(`${base}/hindsight`)
    .send({ ...order, outcome: { measure: 'nothing' } })
    .expect(400);
});

test('nobody replays the rules of a course of others', async () => {
  const em = stage.orm.em.fork();
  em.create(Account, {
    name: 'Eve',
    email: 'eve@saltmarsh.example',
    passwordHash: await hashPassword(PASSWORD),
    createdAt: 0,
  });
  await em.flush();
  const eve = await stage.signIn('eve@saltmarsh.example');
  await eve.post(base).send({ rule: 'away' }).expect(404);
  await eve.post(`${base}/hindsight`).send({}).expect(404);
});
