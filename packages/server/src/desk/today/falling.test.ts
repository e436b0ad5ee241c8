// Runs on PostgreSQL too.
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import type { FallingAnswer } from '@zest-bell/core/exchange';
import { NudgeRow } from '../../mail/nudges/entity.ts';
import { at, COURSE, openStage, ruleOf, type Agent, type TestStage } from '../../testing/stage.ts';
import { openSmtp, type TestSmtp } from '../../testing/smtp.ts';
import { runDueRounds } from '../../rounds/deciding/scheduler.ts';
import { unguarded } from '../../testing/unguarded.ts';

/** p1 has an address, p2 has none; nobody has come since the course began. */
const people = COURSE.people.map((p) => (p.id === 'p2' ? { ...p, email: null } : p)).filter((p) => p.id !== 'p3');
let stage: TestStage;
let ada: Agent;
let smtp: TestSmtp;
const base = '/api/v1/courses/1';

beforeEach(async () => {
  smtp = await openSmtp();
  stage = await openStage({ now: '2026-09-05T00:00', rules: [ruleOf()], course: { people }, smtp: smtp.url });
  ada = await stage.signIn();
});
afterEach(async () => {
  await stage.close();
  await smtp.close();
});

const taken = () => smtp.mails.flatMap((m) => m.to);
const falling = async (): Promise<FallingAnswer> =>
  (await ada.get(`${base}/falling`).expect(200)).body as FallingAnswer;

/** Rounds run up to the moment, and what is due leaves. */
async function untilNow(now: string): Promise<void> {
  for (let day = at('2026-09-05T09:30'); day <= at(now); day += 86_400_000) {
    stage.clock.set(day);
    await runDueRounds(stage.services);
    await stage.dispatcher.drain();
  }
  stage.clock.set(at(now));
}

test('who has no address and who was written to once long ago fall through, and each is helped', async () => {
  await untilNow('2026-09-25T12:00');
  const { lines } = await falling();
  expect(lines.map((l) => [l.student, l.name, l.reason, l.limit, l.rounds])).toEqual([
    ['p1', 'P1 Lind', 'limit', 'perSpell', 20],
    ['p2', 'P2 Lind', 'noAddress', null, 21],
  ]);
  // Each with what makes the rule find them now.
  expect(lines.map((l) => l.evidence)).toMatchObject([
    [{ measure: 'daysSinceVisit', verdict: true }],
    [{ measure: 'daysSinceVisit', verdict: true }],
  ]);

  // Write now: past the limit, and the log says so.
  await ada.post(`${base}/falling/p1/write`).send({ rule: 'away' }).expect(200);
  expect(taken()).toEqual(['p1@saltmarsh.example', 'p1@saltmarsh.example']);
  const nudge = await unguarded(stage.orm).findOneOrFail(NudgeRow, { passedBy: { $ne: null } });
  expect(nudge).toMatchObject({ student: 'p1', state: 'sent', passed: ['perSpell'], passedBy: 'account:1' });
  const detail = await ada.get(`${base}/log/${nudge.id}`).expect(200);
  expect(detail.body).toMatchObject({ passed: { limits: ['perSpell'], by: 'Ada Lind' } });
  expect((await falling()).lines.map((l) => l.student)).toEqual(['p2']);

  // Add an address: the next round reaches them.
  const bad = await ada.put(`${base}/students/p2/address`).send({ email: 'p2' }).expect(400);
  expect(bad.body.problems).toMatchObject([
    { path: 'email', message: 'Type one address, such as ada@college.example' },
  ]);
  await ada.put(`${base}/students/p2/address`).send({ email: 'p2@saltmarsh.example' }).expect(204);
  expect((await falling()).lines).toEqual([]);
  await untilNow('2026-09-26T12:00');
  expect(taken().at(-1)).toBe('p2@saltmarsh.example');
});

test('a student set aside is apart until the day, with the note', async () => {
  await untilNow('2026-09-25T12:00');
  const past = await ada
    .put(`${base}/lookout/aside`)
    .send({ students: ['p2'], until: '2026-09-25', note: '' })
    .expect(400);
  expect(past.body.problems).toMatchObject([{ path: 'until' }]);
  await ada
    .put(`${base}/lookout/aside`)
    .send({ students: ['p2'], until: '2026-10-05', note: 'Called on Friday' })
    .expect(204);
  const { lines, aside } = await falling();
  expect(lines.map((l) => l.student)).toEqual(['p1']);
  expect(aside).toMatchObject([{ student: 'p2', note: 'Called on Friday', by: 'Ada Lind' }]);
  stage.clock.set(at('2026-10-05T00:00'));
  expect((await falling()).lines.map((l) => l.student)).toContain('p2');
  stage.clock.set(at('2026-10-04T00:00'));
  await ada.delete(`${base}/students/p2/aside`).expect(204);
  expect((await falling()).aside).toEqual([]);
});

test('what cannot be sent says why', async () => {
  await untilNow('2026-09-25T12:00');
  const refused = await ada.post(`${base}/falling/p2/write`).send({ rule: 'away' }).expect(409);
  expect(refused.body).toMatchObject({ code: 'notReachable', problems: [{ code: 'noAddress' }] });
  await ada.post(`${base}/falling/p1/write`).send({ rule: 'gone' }).expect(404);
  await ada.post(`${base}/falling/p1/write`).send({ rule: 'away', wording: 'gone' }).expect(404);
});
