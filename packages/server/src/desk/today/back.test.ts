// Runs on PostgreSQL too.
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import type { BackAnswer } from '@zest-bell/core/exchange';
import { at, openStage, visit, type Agent, type TestStage } from '../../testing/stage.ts';
import { openSmtp, type TestSmtp } from '../../testing/smtp.ts';
import { runDueRounds } from '../../rounds/deciding/scheduler.ts';

let stage: TestStage;
let ada: Agent;
let smtp: TestSmtp;

beforeEach(async () => {
  smtp = await openSmtp();
  stage = await openStage({ now: '2026-09-06T09:00', smtp: smtp.url });
  await stage.tell(['p1', 'p2'].map((p) => visit(p, '2026-09-01T10:00')));
  await stage.tell([visit('p3', '2026-09-05T10:00')]);
  stage.clock.set(at('2026-09-07T09:30'));
  await runDueRounds(stage.services);
  await stage.dispatcher.drain();
  ada = await stage.signIn();
});
afterEach(async () => {
  await stage.close();
  await smtp.close();
});

const back = async (since: string) =>
  (
    await ada
      .get('/api/v1/courses/1/back')
      .query({ since: at(since) })
      .expect(200)
  ).body as BackAnswer;

test('[R13] who came back since somebody wrote, when, and by what; and who has not', async () => {
  stage.clock.set(at('2026-09-08T12:00'));
  await stage.tell([visit('p1', '2026-09-08T10:00')]);
  expect((await back('2026-09-07T00:00')).lines).toMatchObject([
    {
      student: 'p1',
      name: 'P1 Lind',
      ruleName: 'Away',
      sentAt: at('2026-09-07T09:30'),
      canReturn: true,
      back: { at: at('2026-09-08T10:00') },
      replied: false,
    },
    { student: 'p2', canReturn: true, back: null },
  ]);
  expect((await back('2026-09-08T00:00')).lines).toEqual([]);
  await ada.get('/api/v1/courses/1/back').expect(400);
});

test('who may not read the course is not told', async () => {
  await ada.get('/api/v1/courses/9/back').query({ since: 0 }).expect(404);
});
