// Runs on PostgreSQL too.
import { asTx } from '../../testing/asTx.ts';
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import type { VariedReplay } from '@zest-bell/core/outcomes';
import type {
  CameOfItAnswer,
  ComingAnswer,
  HindsightAnswer,
  ReplayAnswer,
  ReplayEvidence,
} from '@zest-bell/core/exchange';
import { Account } from '../../access/entity.ts';
import { hashPassword } from '../../access/passwords.ts';
import { MessageRow, NudgeRow, RefusalRow } from '../../mail/nudges/entity.ts';
import { insertRule } from '../../rules/repository.ts';
import { at, linesOf, openStage, PASSWORD, ruleOf, visit, type Agent, type TestStage } from '../../testing/stage.ts';
import { unguarded } from '../../testing/unguarded.ts';

let stage: TestStage;
let ada: Agent;
beforeEach(async () => {
  stage = await openStage({ now: '2026-09-20T12:00' });
  await stage.tell(['p1', 'p2', 'p3'].map((p) => visit(p, '2026-09-01T10:00')));
  await stage.tell([{ id: 'v-back', person: 'p1', kind: 'visit', at: '2026-09-09T10:00:00-04:00' }]);
  ada = await stage.signIn();
});
afterEach(() => stage.close());

const base = '/api/v1/courses/1/replay';
const replay = async (body: object) => (await linesOf<ReplayAnswer>(ada.post(base).send(body).expect(200))).answer;

test('a rule is replayed over the term so far, and nothing is sent or logged', async () => {
  const seen = await replay({ rule: 'away' });
  expect(seen.until).toBe(at('2026-09-20T12:00'));
  expect(seen.students.map((s) => s.student)).toEqual(['p1', 'p2', 'p3']);
  // p1 came back on Sep 9 and was away again: two spells, two nudges.
  expect(seen).toMatchObject({ nudges: 4, reached: 3, most: { student: 'p1', nudges: 2 } });
  expect(await replay({ rule: null })).toMatchObject({ nudges: 4 });
  expect(await unguarded(stage.orm).count(NudgeRow)).toBe(0);
});

test('a change that is not saved is replayed in its place, and one that does not fit is named', async () => {
  const changed = ruleOf({ when: { measure: 'daysSinceVisit', is: '>=', value: 12 } });
  expect(await replay({ rule: 'away', changed })).toMatchObject({ nudges: 2, reached: 2 });
  const gone = ruleOf({ when: { measure: 'score', item: 'q9', is: '<', value: 5 } });
  await ada.post(base).send({ rule: 'away', changed: gone }).expect(400);
  await ada.post(base).send({ rule: 'nobody' }).expect(404);
});

test('a mark opens its evidence and its message as of its round', async () => {
  const order = { rule: 'away', student: 'p1', at: at('2026-09-07T09:30'), step: 0 };
  const { evidence, message } = (await ada.post(`${base}/evidence`).send(order).expect(200)).body as ReplayEvidence;
  expect(evidence).toMatchObject([{ value: 5, verdict: true, fact: { at: at('2026-09-01T10:00') } }]);
  // As it would have read on that day, and not today.
  expect(message!.subject).toBe('A quiet week in Coastal Navigation');
  expect(message!.text).toContain('it has been 5 days');
});

test('[O4] hindsight counts, and varies one number over its values', async () => {
  const order = {
    rule: 'away',
    outcome: { measure: 'submitted', item: 'q1', is: 'equals', value: false },
    at: at('2026-09-20T00:00'),
    vary: { path: 'when.value', values: [3, 5, 30] },
  };
  const { answer, lines } = await linesOf<HindsightAnswer>(ada.post(`${base}/hindsight`).send(order).expect(200));
  // How well the rule does as it is comes before the other values.
  expect(lines[0]).toHaveProperty('hindsight');
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

test('one number is varied, and each value is told as soon as it is known', async () => {
  const order = { rule: 'away', path: 'when.value', values: [3, 5, 12, 30] };
  const { answer, lines } = await linesOf<VariedReplay[]>(ada.post(`${base}/vary`).send(order).expect(200));
  expect(answer.map((v) => [v.value, v.nudges, v.reached])).toEqual([
    [3, 4, 3],
    [5, 4, 3],
    [12, 2, 2],
    [30, 0, 0],
  ]);
  expect(answer.at(-1)!.notice).toBeNull();
  expect(lines.flatMap((l) => (l['varied'] ? [l['varied']] : []))).toEqual(answer);
  const replayed = await replay({ rule: 'away' });
  expect(answer[1]).toMatchObject({ nudges: replayed.nudges, notice: replayed.notice!.median });
  await ada
    .post(`${base}/vary`)
    .send({ ...order, path: 'when.none' })
    .expect(400);
});

test('another message budget is tried over all rules together, and the course keeps its own', async () => {
  const em = unguarded(stage.orm);
  const { course } = await stage.services.live.get(em, 1);
  const second = ruleOf({ id: 'second', name: 'Second', rhythm: { start: '2026-08-31T09:45', rrule: 'FREQ=DAILY' } });
  await insertRule(asTx(em), { id: 1, course }, second, 1, 0);
  await em.flush();
  expect(await replay({ rule: null })).toMatchObject({ nudges: 8, heldBack: expect.any(Number) });
  const budget = { count: 1, days: 60 };
  expect(await replay({ rule: null, budget })).toMatchObject({ nudges: 3 });
  // A rule alone has the budget for itself; together with the others it shares it.
  expect(await replay({ rule: 'second', budget })).toMatchObject({ nudges: 3 });
  const together = await replay({ rule: 'second', together: true, budget });
  expect(together).toMatchObject({ nudges: 3 });
  expect(
    new Set(together.students.flatMap((s) => s.marks.filter((m) => m.outcome === 'sent').map((m) => m.rule))),
  ).toEqual(new Set(['away']));
  const strong = { ...second, weight: 'strong' as const };
  expect(await replay({ rule: 'second', together: true, budget, changed: strong })).toMatchObject({ nudges: 6 });
  await ada
    .post(base)
    .send({ rule: null, budget: { count: -1, days: 7 } })
    .expect(400);
});

test('nobody replays the rules of a course of others', async () => {
  const em = unguarded(stage.orm);
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

test('what came of the nudges is read from the log, beside spells that were held back', async () => {
  const log = { course: 1, ruleVersion: 1, step: 0, state: 'sent' as const, toStudent: true, evidence: [] };
  const em = unguarded(stage.orm);
  const nudge = (student: string, when: string, spell: string, n: number) => {
    const key = `1:${student}:${when}`;
    em.create(NudgeRow, {
      ...log,
      idempotencyKey: key,
      rule: 'away',
      student,
      wording: 'gentle',
      reason: null,
      roundAt: at(when),
      spellStart: at(spell),
    });
    em.create(MessageRow, {
      nudge: n,
      course: 1,
      kind: 'student' as const,
      lead: true,
      name: '',
      address: `${student}@saltmarsh.example`,
      state: 'sent' as const,
      heldFor: null,
      sendAt: at(when),
      settledAt: at(when),
      variant: 0,
    });
  };
  nudge('p1', '2026-09-06T10:00', '2026-09-06T10:00', 1);
  nudge('p2', '2026-09-06T10:00', '2026-09-06T10:00', 2);
  const refusal = (student: string, reason: 'budget' | 'gap', first: string, spell: string) =>
    em.create(RefusalRow, {
      course: 1,
      rule: 'away',
      student,
      spellStart: at(spell),
      step: 0,
      reason,
      rounds: 1,
      evidence: [],
      firstRound: at(first),
      lastRound: at(first),
    });
  refusal('p3', 'budget', '2026-09-06T10:00', '2026-09-06T10:00');
  // p2 was nudged first in this spell: what was held back later is no spell without a nudge.
  refusal('p2', 'gap', '2026-09-07T10:00', '2026-09-06T10:00');
  await em.flush();
  const came = (await ada.get(`${base}/outcomes`).query({ by: 'rule' }).expect(200)).body as CameOfItAnswer;
  expect(came.rules).toEqual({ away: 'Away' });
  expect(came.lines).toMatchObject([
    {
      rule: 'away',
      result: { sent: 2, returns: { count: 1, of: 2 } },
      time: { nudges: 2, returned: 1, curve: [{ days: 3, atRisk: 2, acts: 1 }] },
      comparison: { spells: 1, reasons: { budget: 1 }, curve: [] },
    },
  ]);
  const texts = (await ada.get(`${base}/outcomes`).query({ by: 'text' }).expect(200)).body as CameOfItAnswer;
  expect(texts.lines).toMatchObject([{ wording: 'gentle', text: 0, comparison: null }]);
});

test('the coming week: if nobody does anything more, and if the last 14 days repeat', async () => {
  // p3 comes every other day, and would be found only if that ended; p1 came on Sep 9 and would come again too late for Sep 21.
  await stage.tell(['08', '10', '12', '14', '16', '18', '20'].map((d) => visit('p3', `2026-09-${d}T10:00`)));
  const coming = (await ada.get(`${base}/ahead`).query({ days: 7 }).expect(200)).body as ComingAnswer;
  expect(coming.until).toBe(at('2026-09-27T12:00'));
  const nudged = ({ students }: ComingAnswer['still']) =>
    students.filter((s) => s.marks.some((m) => m.outcome === 'sent')).map((s) => s.student);
  expect(nudged(coming.still)).toEqual(['p1', 'p2', 'p3']);
  expect(nudged(coming.repeated)).toEqual(['p1', 'p2']);
  expect(coming.rules).toMatchObject([{ id: 'away', rounds: 7, still: 3, repeated: 2 }]);
  expect(coming.still.noise).toMatchObject({ verdict: 'usual', usual: 0, many: [] });
  await ada.get(`${base}/ahead`).query({ days: 0 }).expect(400);
});
