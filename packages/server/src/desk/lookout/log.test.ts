// Runs on PostgreSQL too.
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import type { LookoutLogAnswer, TrayAnswer } from '@zest-bell/core/exchange';
import { MINUTE } from '@zest-bell/core/time';
import { runDueRounds } from '../../rounds/deciding/scheduler.ts';
import { openSmtp, type TestSmtp } from '../../testing/smtp.ts';
import { at, openStage, ruleOf, visit, type Agent, type TestStage } from '../../testing/stage.ts';

let stage: TestStage;
let server: TestSmtp;
let ada: Agent;
const base = '/api/v1/courses/1';
const FIRST = at('2026-09-07T09:30');

beforeEach(async () => {
  server = await openSmtp();
  const sends = ruleOf({ when: { measure: 'daysSinceVisit', is: '>=', value: 6 } });
  const holds = ruleOf({
    id: 'asks',
    name: 'Asks',
    when: { measure: 'daysSinceVisit', is: '<', value: 6 },
    steps: [{ deliver: 'hold', to: ['student'], wording: 'gentle' }],
  });
  stage = await openStage({ now: '2026-09-06T09:00', smtp: server.url, rules: [sends, holds] });
  await stage.tell([visit('p1', '2026-09-01T08:00'), visit('p2', '2026-09-03T10:00')]);
  stage.clock.set(FIRST);
  await runDueRounds(stage.services);
  await stage.dispatcher.drain();
  ada = await stage.signIn();
});
afterEach(async () => {
  await stage.close();
  await server.close();
});

const asOf = async (when: number) =>
  ((await ada.get(`${base}/lookout/log`).query({ at: when }).expect(200)).body as LookoutLogAnswer).students;

test('a page that asks as of its own moment, a little before now, is told what waits and what was sent', async () => {
  stage.clock.set(FIRST + 10 * MINUTE);
  const students = await asOf(FIRST + MINUTE);
  expect(students['p1']).toMatchObject({ sent: 1, last: { state: 'sent' } });
  expect(students['p2']).toMatchObject({ sent: 0, last: { state: 'held', ruleName: 'Asks' } });
});

test('what was decided since is as it was, as far as that is known', async () => {
  const { lines } = (await ada.get(`${base}/tray`).expect(200)).body as TrayAnswer;
  const dismissed = { as: 'dismiss', nudges: lines.map((line) => line.nudge), reason: 'I spoke with them' };
  stage.clock.set(FIRST + 5 * MINUTE);
  await ada.post(`${base}/tray/decide`).send(dismissed).expect(200);
  stage.clock.set(FIRST + 10 * MINUTE);
  expect((await asOf(FIRST + MINUTE))['p1']).toMatchObject({ sent: 1 });
  expect((await asOf(FIRST + MINUTE))['p2']?.last ?? null).toBeNull();
  expect((await asOf(FIRST - MINUTE))['p1']).toBeUndefined();
});
