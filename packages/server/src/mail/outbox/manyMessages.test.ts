/** A round for many: its mail goes out pooled, says how far it is, and is stopped and started without losing or doubling any. */
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import type { StandingAnswer } from '@zest-bell/core/exchange';
import { MessageRow, NudgeRow } from '../nudges/entity.ts';
import { runDueRounds } from '../../rounds/deciding/scheduler.ts';
import { openSmtp, type TestSmtp } from '../../testing/smtp.ts';
import { at, classOf, openStage, type Agent, type TestStage } from '../../testing/stage.ts';
import { unguarded } from '../../testing/unguarded.ts';

const MANY = 150;

let stage: TestStage;
let smtp: TestSmtp;
let ada: Agent;
beforeEach(async () => {
  smtp = await openSmtp();
  stage = await openStage({ now: '2026-09-04T12:00', smtp: smtp.url, course: { people: classOf(MANY) } });
  ada = await stage.signIn();
  stage.clock.set(at('2026-09-05T09:30'));
  await runDueRounds(stage.services);
});
afterEach(async () => {
  await stage.close();
  await smtp.close();
});

const standing = async () => (await ada.get('/api/v1/courses/1/standing').expect(200)).body as StandingAnswer;
const queued = () => unguarded(stage.orm).count(MessageRow, { state: 'queued' });
const addresses = () => smtp.mails.map((m) => m.to[0]!);

test('is stopped in the middle and started again, and everybody has it once', async () => {
  expect((await standing()).sending).toEqual({ done: 0, total: MANY });
  smtp.most = 20;
  const going = stage.dispatcher.drain();
  while (smtp.mails.length < 20) await new Promise(setImmediate);
  const { sending } = await standing();
  expect(sending!.total).toBe(MANY);
  expect(sending!.done).toBeGreaterThan(0);
  await ada.post('/api/v1/courses/1/mail/stop').expect(200);
  smtp.most = Infinity;
  await going;
  const left = await queued();
  expect(left).toBeGreaterThan(0);
  expect(smtp.mails).toHaveLength(MANY - left);
  await stage.dispatcher.drain();
  expect(await queued()).toBe(left);

  await ada.post('/api/v1/courses/1/mail/start').send({ queued: 'send', missed: 'skip' }).expect(200);
  await stage.dispatcher.drain();
  expect(new Set(addresses()).size).toBe(MANY);
  expect(addresses()).toHaveLength(MANY);
  expect((await standing()).sending).toBeNull();
});

test('what was sent by hand at the same moment is not counted with a round that is going out', async () => {
  const by = { course: 1, roundAt: at('2026-09-05T09:30'), rule: null };
  const em = unguarded(stage.orm);
  const [one] = await em.find(NudgeRow, {}, { limit: 1 });
  const { id: _, ...row } = one!;
  const nudge = em.create(NudgeRow, { ...row, ...by, idempotencyKey: 'by hand', wording: 'mailing 1', state: 'sent' });
  await em.flush();
  const message = { nudge: nudge.id, course: 1, kind: 'student', lead: true, state: 'sent' } as const;
  em.create(MessageRow, { ...message, name: 'A', address: 'a@saltmarsh.example', sendAt: by.roundAt });
  await em.flush();
  expect((await standing()).sending).toEqual({ done: 0, total: MANY });
});

test('when its course cannot be read for a moment, the rest waits a minute and nothing is lost', async () => {
  const { live } = stage.services;
  const get = live.get.bind(live);
  let failed = false;
  live.get = (em, id) => {
    if (failed || smtp.mails.length === 0) return get(em, id);
    failed = true;
    return Promise.reject(new Error('the disk is gone'));
  };
  await stage.dispatcher.drain();
  expect(failed).toBe(true);
  const em = unguarded(stage.orm);
  expect(smtp.mails.length).toBeLessThan(MANY);
  expect(await em.count(MessageRow, { state: 'sent' })).toBe(smtp.mails.length);
  expect(await em.count(MessageRow, { state: 'handing' })).toBe(0);
  stage.clock.set(at('2026-09-05T09:31'));
  await stage.dispatcher.drain();
  expect(addresses()).toHaveLength(MANY);
  expect(new Set(addresses()).size).toBe(MANY);
});

test('is sent once although two processes send it', async () => {
  const other = await openStage({ now: '2026-09-05T09:30', smtp: smtp.url, folder: stage.folder });
  await Promise.all([stage.dispatcher.drain(), other.dispatcher.drain()]);
  await Promise.all([stage.dispatcher.drain(), other.dispatcher.drain()]);
  expect(new Set(addresses()).size).toBe(MANY);
  expect(addresses()).toHaveLength(MANY);
  await other.close();
});
