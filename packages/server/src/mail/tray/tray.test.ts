// Runs on PostgreSQL too.
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import type { LogDetail, TrayAnswer, TrayDecided } from '@zest-bell/core/exchange';
import { runDueRounds } from '../../rounds/deciding/scheduler.ts';
import { at, openStage, ruleOf, visit, type Agent, type TestStage } from '../../testing/stage.ts';
import { openSmtp, type TestSmtp } from '../../testing/smtp.ts';

let stage: TestStage;
let server: TestSmtp;
let agent: Agent;
const base = '/api/v1/courses/1';

beforeEach(async () => {
  server = await openSmtp();
  const held = ruleOf({ steps: [{ deliver: 'hold', to: ['student'], wording: 'gentle' }] });
  stage = await openStage({ now: '2026-09-06T09:00', smtp: server.url, rules: [held] });
  // All are away since Sep 1; a round of Sep 7 finds them.
  await stage.tell(['p1', 'p2', 'p3'].map((p, i) => visit(p, `2026-09-01T1${i}:00`)));
  stage.clock.set(at('2026-09-07T09:30'));
  await runDueRounds(stage.services);
  agent = await stage.signIn();
});
afterEach(async () => {
  await stage.close();
  await server.close();
});

const tray = async () => (await agent.get(`${base}/tray`).expect(200)).body as TrayAnswer;
const decide = async (order: object) =>
  (await agent.post(`${base}/tray/decide`).send(order).expect(200)).body as TrayDecided;

test('what waits stands with its evidence and its message, the longest spell first', async () => {
  const { lines } = await tray();
  expect(lines.map((l) => [l.student, l.heldFor, l.stillTrue])).toEqual([
    ['p1', 'step', true],
    ['p2', 'step', true],
    ['p3', 'step', true],
  ]);
  expect(lines[0]).toMatchObject({ message: { subject: 'A quiet week in Coastal Navigation' }, trouble: null });
  expect(lines[0]!.message!.text).toContain('it has been 5 days');
});

test('[R9] one who came back meanwhile is not written to, and the answer says so', async () => {
  stage.clock.set(at('2026-09-07T11:00'));
  await stage.tell([visit('p2', '2026-09-07T10:00')]);
  const { lines } = await tray();
  expect(lines.find((l) => l.student === 'p2')).toMatchObject({ stillTrue: false });
  const done = await decide({ as: 'send', nudges: lines.map((l) => l.nudge) });
  expect(done).toEqual({ done: 2, canceled: [{ name: 'P2 Lind', reason: 'noLongerTrue' }], sending: null });
  expect(server.mails.map((m) => m.to[0]).toSorted()).toEqual(['p1@saltmarsh.example', 'p3@saltmarsh.example']);
  expect((await tray()).lines).toEqual([]);
});

test('[R9] a text of its own stays, for this one alone; another wording can be chosen', async () => {
  const [first, second] = (await tray()).lines;
  const path = (nudge: number) => `${base}/tray/${nudge}/text`;
  await agent
    .put(path(first!.nudge))
    .send({ text: { subject: 'For you', text: '{{ student.first_name }}, come by.' } })
    .expect(204);
  expect((await tray()).lines[0]).toMatchObject({ edited: { subject: 'For you' }, message: { text: 'P1, come by.' } });
  await agent
    .put(path(first!.nudge))
    .send({ text: { subject: 'x', text: '{{ nothing.here }}' } })
    .expect(422);
  await agent.put(path(second!.nudge)).send({ text: null, wording: 'lost' }).expect(404);
  await decide({ as: 'send', nudges: [first!.nudge, second!.nudge] });
  expect(server.mails.map((m) => m.mail.subject).toSorted()).toEqual(['A quiet week in Coastal Navigation', 'For you']);
  await agent.put(path(first!.nudge)).send({ text: null }).expect(409);
});

test('a dismissal is taken back, and so is putting off: the nudge waits as it did', async () => {
  const [first, second] = (await tray()).lines;
  const waited = { heldFor: first!.heldFor, waiting: (await tray()).lines.length };
  await decide({ as: 'dismiss', nudges: [first!.nudge], reason: 'I spoke with the student' });
  await decide({ as: 'restore', nudges: [first!.nudge] });
  await decide({ as: 'later', nudges: [second!.nudge], until: at('2026-09-12T00:00') });
  await decide({ as: 'later', nudges: [second!.nudge], until: null });
  const now = await tray();
  expect([now.lines.length, now.later, now.lines[0]!.heldFor]).toEqual([waited.waiting, 0, waited.heldFor]);
  const log = (await agent.get(`${base}/log/${first!.nudge}`).expect(200)).body as LogDetail;
  expect(log).toMatchObject({ state: 'held', dismissed: null });
  await decide({ as: 'send', nudges: [first!.nudge] });
  expect(server.mails).toHaveLength(1);
  // What was not dismissed, or has left, cannot be restored.
  for (const { nudge } of [first!, second!])
    await agent
      .post(`${base}/tray/decide`)
      .send({ as: 'restore', nudges: [nudge] })
      .expect(409);
});

test('what is dismissed never goes and keeps its reason; what is put off comes back by itself', async () => {
  const [first, second] = (await tray()).lines;
  await decide({ as: 'dismiss', nudges: [first!.nudge], reason: 'I spoke with the student' });
  await decide({ as: 'later', nudges: [second!.nudge], until: at('2026-09-09T00:00') });
  const now = await tray();
  expect([now.lines.length, now.later]).toEqual([2, 1]);
  const log = (await agent.get(`${base}/log/${first!.nudge}`).expect(200)).body as LogDetail;
  expect(log).toMatchObject({ state: 'dismissed', dismissed: { by: 'Ada Lind', reason: 'I spoke with the student' } });
  stage.clock.set(at('2026-09-09T08:00'));
  expect((await tray()).later).toBe(0);
  await stage.dispatcher.drain();
  expect(server.mails).toEqual([]);
  await agent
    .post(`${base}/tray/decide`)
    .send({ as: 'dismiss', nudges: [second!.nudge], reason: ' ' })
    .expect(400);
  await agent
    .post(`${base}/tray/decide`)
    .send({ as: 'send', nudges: [first!.nudge] })
    .expect(409);
  const bo = await stage.signIn('bo@saltmarsh.example');
  await bo.get(`${base}/tray`).expect(404);
});
