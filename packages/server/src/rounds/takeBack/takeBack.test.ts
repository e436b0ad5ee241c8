// Runs on PostgreSQL too.
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import type { RingAnswer, SendingAnswer, TrayAnswer, TrayDecided } from '@zest-bell/core/exchange';
import type { WritePreview, WrittenAnswer } from '@zest-bell/core/imports';
import { Account } from '../../access/entity.ts';
import { MailingRow } from '../../mail/byHand/entity.ts';
import { MessageRow, NudgeRow, RefusalRow } from '../../mail/nudges/entity.ts';
import { PlainMailRow } from '../../mail/plainMail/entity.ts';
import { ReplyRow } from '../../mail/replies/entity.ts';
import { RoundRow } from '../deciding/entity.ts';
import { openSmtp, type TestSmtp } from '../../testing/smtp.ts';
import { isOnPostgres } from '../../testing/database.ts';
import { until } from '../../testing/until.ts';
import { inTransaction } from '../../platform/database/transaction.ts';
import { at, openStage, ruleOf, type Agent, type TestStage } from '../../testing/stage.ts';
import { SendingRow } from '../../mail/sendings/entity.ts';
import { unguarded, freely } from '../../testing/unguarded.ts';

let stage: TestStage;
let smtp: TestSmtp;
let ada: Agent;
const base = '/api/v1/courses/1';
const em = () => unguarded(stage.orm);

beforeEach(async () => {
  smtp = await openSmtp();
  stage = await openStage({
    now: '2026-09-07T10:00',
    smtp: smtp.url,
    rules: [ruleOf({ steps: [{ deliver: 'hold', to: ['student'], wording: 'gentle' }] })],
  });
  await em().nativeUpdate(Account, {}, { sendDelay: 10 });
  ada = await stage.signIn();
});
afterEach(async () => {
  await stage.close();
  await smtp.close();
});

const to = { sheet: null, rows: [], students: ['p1', 'p2'], student: true, contacts: [], columns: [] };
const write = async (more: object = {}) =>
  (
    await ada
      .post(`${base}/write`)
      .send({ to, subject: 'Hello', text: 'Please come to class.', ...more })
      .expect(201)
  ).body as WrittenAnswer;
const open = async () => (await ada.get('/api/v1/sendings').expect(200)).body as SendingAnswer[];
const undo = (id: number) => ada.post(`/api/v1/sendings/${id}/undo`);

/** Ten seconds later, by the machine's clock. */
const later = () => em().nativeUpdate(SendingRow, {}, { until: Date.now() - 1 });

describe('what a person sends by hand', () => {
  test('waits, is seen, and leaves when the wait is over', async () => {
    const { sending } = await write();
    expect(sending).toMatchObject({ kind: 'write', words: '2 messages', course: 1 });
    expect(sending!.left).toBeGreaterThan(8000);
    await stage.dispatcher.drain();
    expect(smtp.mails).toHaveLength(0);
    expect(await open()).toHaveLength(1);
    await later();
    await stage.dispatcher.drain();
    expect(smtp.mails).toHaveLength(2);
    expect(await open()).toEqual([]);
    expect((await undo(sending!.id).expect(409)).body.code).toBe('tooLate');
  });

  test('leaves by itself, at once when asked, and once the course’s clock has gone past it', async () => {
    await ada.put('/api/v1/account/send-delay').send({ seconds: 1 }).expect(204);
    await write();
    await until(() => smtp.mails.length >= 2);
    expect(smtp.mails).toHaveLength(2);
    await ada.put('/api/v1/account/send-delay').send({ seconds: 60 }).expect(204);
    const { sending } = await write({ to: { ...to, students: ['p3'] } });
    await ada.post(`/api/v1/sendings/${sending!.id}/now`).expect(204);
    expect(smtp.mails).toHaveLength(3);
    await write();
    stage.clock.set(at('2026-09-07T11:00'));
    await stage.dispatcher.drain();
    expect(smtp.mails).toHaveLength(5);
  });

  test('is taken back as if it had not been sent', async () => {
    const { sending } = await write();
    await undo(sending!.id).expect(200);
    expect(await em().count(NudgeRow)).toBe(0);
    expect(await em().count(MessageRow)).toBe(0);
    expect(await em().count(MailingRow)).toBe(0);
    await later();
    await stage.dispatcher.drain();
    expect(smtp.mails).toHaveLength(0);
    await undo(sending!.id).expect(404);
  });

  // A file has one writer: there nothing happens between a look and what follows from it.
  (isOnPostgres ? test : test.skip)(
    'is not taken back once a mail process has claimed it, even at that moment',
    async () => {
      const { sending } = await write();
      let undone: PromiseLike<{ readonly status: number }> | undefined;
      const isWaiting = async () => {
        const waiting =
          "select 1 from pg_stat_activity where datname = current_database() and wait_event_type = 'Lock'";
        return (await em().getConnection().execute<object[]>(waiting)).length > 0;
      };
      await inTransaction(stage.orm, async (tx) => {
        await freely(tx).nativeUpdate(
          MessageRow,
          { sending: sending!.id },
          { state: 'handing', claimedBy: 'another process' },
        );
        undone = undo(sending!.id).then((answer) => answer);
        await until(isWaiting);
      });
      expect((await undone!).status).toBe(409);
      expect(await em().count(MessageRow, { sending: sending!.id })).toBe(2);
    },
  );

  test('is its sender’s alone, and a setting of each person, a minute at most', async () => {
    const { sending } = await write();
    const bo = await stage.signIn('bo@saltmarsh.example');
    expect((await bo.get('/api/v1/sendings')).body).toEqual([]);
    await bo.post(`/api/v1/sendings/${sending!.id}/undo`).expect(404);
    await bo.post(`/api/v1/sendings/${sending!.id}/now`).expect(404);
    await ada.put('/api/v1/account/send-delay').send({ seconds: 61 }).expect(400);
    await ada.put('/api/v1/account/send-delay').send({ seconds: 0 }).expect(204);
    expect((await ada.get('/api/v1/session')).body.account.sendDelay).toBe(0);
    expect((await write({ to: { ...to, students: ['p3'] } })).sending).toBeNull();
    expect(smtp.mails).toHaveLength(1);
  });
});

test('a ring that is taken back did not take place', async () => {
  const before = await em().count(RoundRow);
  const { sending } = (await ada.post(`${base}/rules/away/ring`).send({ confirmed: true }).expect(200))
    .body as RingAnswer;
  expect(await em().count(NudgeRow, { state: 'held' })).toBe(3);
  // Nothing leaves without a decision, but the round can still be taken back.
  expect(sending).toMatchObject({ kind: 'ring', words: '3 nudges' });
  await undo(sending!.id).expect(200);
  expect(await em().count(NudgeRow)).toBe(0);
  expect(await em().count(RoundRow)).toBe(before);
  expect(await em().count(RefusalRow)).toBe(0);
});

test('nudges of the Tray go back into it', async () => {
  await em().nativeUpdate(Account, {}, { sendDelay: 0 });
  await ada.post(`${base}/rules/away/ring`).send({ confirmed: true }).expect(200);
  await em().nativeUpdate(Account, {}, { sendDelay: 10 });
  const nudges = (await em().find(NudgeRow, {})).map((n) => n.id);
  const send = async () =>
    ((await ada.post(`${base}/tray/decide`).send({ as: 'send', nudges }).expect(200)).body as TrayDecided).sending!;
  const sending = await send();
  expect((await ada.get(`${base}/tray`)).body.waiting).toBe(0);
  await undo(sending.id).expect(200);
  const { lines, waiting } = (await ada.get(`${base}/tray`)).body as TrayAnswer;
  expect([waiting, lines[0]!.heldFor]).toEqual([3, 'step']);
  const again = await send();
  await later();
  await stage.dispatcher.drain();
  expect(smtp.mails).toHaveLength(3);
  expect((await ada.get(`/api/v1/sendings/${again.id}`)).body).toEqual({ waiting: 0, canceled: [] });
});

test('an answer is taken back, and its reply waits again', async () => {
  await em().nativeUpdate(Account, {}, { sendDelay: 0 });
  await write({ to: { ...to, students: ['p1'] } });
  await em().nativeUpdate(Account, {}, { sendDelay: 10 });
  const nudge = await em().findOneOrFail(NudgeRow, { course: 1 });
  const inside = em();
  inside.create(ReplyRow, {
    course: 1,
    nudge: nudge.id,
    student: 'p1',
    kind: 'reply',
    at: at('2026-09-07T10:00'),
    fromName: 'P1',
    fromAddress: 'p1@saltmarsh.example',
    subject: 'Re: Hello',
    text: 'Thank you',
    messageId: '<one@saltmarsh.example>',
  } as never);
  await inside.flush();
  const reply = await em().findOneOrFail(ReplyRow, { course: 1 });
  const answer = () => ada.post(`${base}/replies/${reply.id}/answer`).send({ text: 'See you.' }).expect(200);
  const { sending } = (await answer()).body as { sending: SendingAnswer };
  await stage.dispatcher.drain();
  expect(smtp.mails).toHaveLength(1);
  await undo(sending.id).expect(200);
  expect(await em().count(PlainMailRow)).toBe(0);
  expect((await em().findOneOrFail(ReplyRow, { course: 1 })).settledAt).toBeNull();
  await answer();
  await later();
  await stage.dispatcher.drain();
  expect(smtp.mails).toHaveLength(2);
});

describe('nothing goes out that nobody meant', () => {
  test('not a text that is still its salutation and signature', async () => {
    const text = '{{ student.first_name }},\n\n\n\n{{ sender.signature }}';
    const res = await ada.post(`${base}/write`).send({ to, subject: 'About your score', text }).expect(422);
    expect(res.body).toMatchObject({ code: 'nothingWritten', problems: [{ path: 'text' }] });
    const preview = await ada.post(`${base}/write/preview`).send({ to, subject: 'About', text }).expect(200);
    expect(preview.body.saysNothing).toBe(true);
  });

  test('not a message with an empty field, but to those who were ticked', async () => {
    const text = 'Your boat: {{ column["Boat"] }}.';
    const look = async (withBlanks: string[]) =>
      (await ada.post(`${base}/write/preview`).send({ to, subject: 'Boat', text, withBlanks }).expect(200))
        .body as WritePreview;
    const none = await look([]);
    expect(none.sending).toBe(0);
    expect(none.blanks.map((b) => b.key)).toEqual(['p1', 'p2']);
    expect(none.lines[0]).toMatchObject({ outcome: 'withheld', reason: 'blanks' });
    expect((await look(['p2'])).sending).toBe(1);
    expect((await write({ subject: 'Boat', text, withBlanks: ['p2'] })).sent).toBe(1);
    expect((await em().findOneOrFail(NudgeRow, { course: 1 })).student).toBe('p2');
  });

  test('not to much of the class without a question', async () => {
    await ada
      .put(`${base}/limits`)
      .send({
        limits: {
          settings: { quietHours: null, budget: null },
          breaks: [],
          marks: { mastery: 80 },
          guards: { askAbove: 0.5, staleHours: null },
        },
        version: (await ada.get(`${base}`)).body.version,
      });
    const text = 'Please come to class.';
    const res = await ada.post(`${base}/write`).send({ to, subject: 'Hello', text }).expect(409);
    expect(res.body.code).toBe('reachesMany');
    expect((await write({ confirmed: true })).sent).toBe(2);
    expect((await write({ to: { ...to, students: ['p3'] } })).sent).toBe(1);
  });
});
