/** Mail that is no nudge: handed over one by one, with plain mail in its queue. */
import { asTx } from '../../testing/asTx.ts';
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { retryDelay, troubleDelay, type DeliveryOutcome } from '@zest-bell/core/nudges';
import { CourseRow } from '../../course/entity.ts';
import { PlainMailRow } from '../plainMail/entity.ts';
import { releasePlainMail, sendPlainMail } from '../plainMail/send.ts';
import type { OutgoingMail } from '../../platform/mail/mail.ts';
import { at, openStage, type TestStage } from '../../testing/stage.ts';

const NOW = at('2026-09-10T12:00');
/** An attempt after which a message is given up. */
const LAST = Array.from({ length: 100 }, (_, i) => i + 1).find((attempts) => retryDelay(attempts) === null)!;

let stage: TestStage;
/** What the mail server was given, and what it answers, the last for all that comes after. */
let sent: OutgoingMail[];
let answers: DeliveryOutcome[];
let onSend: () => Promise<unknown>;
beforeEach(async () => {
  stage = await openStage({ now: '2026-09-10T12:00' });
  sent = [];
  answers = [{ kind: 'sent', response: '250 ok' }];
  onSend = () => Promise.resolve();
});
afterEach(() => stage.close());

const drain = () =>
  sendPlainMail(
    {
      ...stage.services,
      mail: {
        ...stage.services.mail,
        send: async (mail) => {
          sent.push(mail);
          await onSend();
          return answers.length > 1 ? answers.shift()! : answers[0]!;
        },
      },
    },
    'me',
  );

async function queue(...rows: Partial<PlainMailRow>[]): Promise<void> {
  const em = stage.orm.em.fork();
  for (const row of rows) {
    em.create(PlainMailRow, {
      ...{ kind: 'answer' as const, course: 1, reply: null, nudge: null, by: 'ada@saltmarsh.example', at: NOW - 5 },
      ...{ toName: 'P1 Lind', toAddress: 'p1@saltmarsh.example', subject: 'Re: a quiet week', text: 'See you.' },
      ...{ messageId: '<a@zestbell.example>', inReplyTo: '<q@saltmarsh.example>', claimedBy: null },
      ...{ forward: 'queued' as const, forwardAt: NOW },
      ...row,
    });
  }
  await em.flush();
}
const rows = () => stage.orm.em.fork().find(PlainMailRow, {}, { orderBy: { id: 'asc' } });

test('what is due leaves in the order in which it came, and nothing else does', async () => {
  await queue(
    { subject: 'first' },
    { subject: 'second', forwardAt: NOW - 60_000 },
    { subject: 'later', forwardAt: NOW + 1 },
    { subject: 'left already', forward: 'sent' },
    { subject: 'of another process', forward: 'handing', claimedBy: 'other' },
  );
  await drain();
  expect(sent.map((m) => m.subject)).toEqual(['first', 'second']);
  expect(sent[0]).toEqual({
    from: { name: 'Dr. A. Lind', address: 'ada@saltmarsh.example' },
    replyTo: 'office@saltmarsh.example',
    to: { name: 'P1 Lind', address: 'p1@saltmarsh.example' },
    ...{ subject: 'first', text: 'See you.', html: expect.stringContaining('See you.') },
    ...{ messageId: '<a@zestbell.example>', inReplyTo: '<q@saltmarsh.example>', date: new Date(NOW - 5) },
    ...{ pauseLink: null, envelopeFrom: null },
  });
  expect(await rows()).toMatchObject([
    { forward: 'sent', claimedBy: null, attempts: 1 },
    { forward: 'sent', claimedBy: null, attempts: 1 },
    { forward: 'queued', attempts: 0 },
    { forward: 'sent', attempts: 0 },
    { forward: 'handing', claimedBy: 'other', attempts: 0 },
  ]);
});

test('while it is on its way its row says so, and by whom', async () => {
  await queue({});
  onSend = async () =>
    expect(await rows()).toMatchObject([{ forward: 'handing', claimedBy: 'me', attempts: 1, forwardAt: NOW }]);
  await drain();
  expect(sent).toHaveLength(1);
});

test.each<[string, DeliveryOutcome, number, Partial<PlainMailRow>]>([
  ['the line fell when it may have left', { kind: 'unknown', response: '' }, 0, { forward: 'uncertain', attempts: 1 }],
  ['it is refused for good', { kind: 'permanent', response: '550' }, 0, { forward: 'failed', attempts: 1 }],
  [
    'it is refused for now',
    { kind: 'transient', response: '450' },
    1,
    { forward: 'queued', attempts: 2, forwardAt: NOW + retryDelay(2)! },
  ],
  ['it was refused too often', { kind: 'transient', response: '450' }, LAST - 1, { forward: 'failed', attempts: LAST }],
])('when %s, its row says so, and the next one leaves', async (_what, answer, attempts, after) => {
  await queue({ attempts }, { subject: 'next' });
  answers = [answer, { kind: 'sent', response: '250 ok' }];
  await drain();
  expect(await rows()).toMatchObject([
    { claimedBy: null, ...after },
    { forward: 'sent', claimedBy: null },
  ]);
});

test('when the mail server takes nothing, all of it waits and no attempt is counted', async () => {
  await queue({}, { subject: 'next' });
  answers = [{ kind: 'unavailable', trouble: 'unreachable', response: 'connect ECONNREFUSED' }];
  await drain();
  expect(sent).toHaveLength(1);
  expect(await rows()).toMatchObject([
    { forward: 'queued', claimedBy: null, attempts: 0, forwardAt: NOW + troubleDelay(1) },
    { forward: 'queued', claimedBy: null, attempts: 0, forwardAt: NOW },
  ]);
});

test('mail of a course that is stopped waits for it', async () => {
  await queue({});
  await stage.orm.em.fork().nativeUpdate(CourseRow, { id: 1 }, { stoppedAt: NOW });
  await drain();
  expect(sent).toEqual([]);
  expect(await rows()).toMatchObject([{ forward: 'queued', claimedBy: null, attempts: 0 }]);
});

test.each<[string, Partial<PlainMailRow>]>([
  ['taken over by another process', { forward: 'handing', claimedBy: 'other' }],
  ['settled by a person', { forward: 'failed', claimedBy: 'me' }],
])('what was %s meanwhile keeps what it was given there', async (_what, given) => {
  await queue({});
  onSend = () => stage.orm.em.fork().nativeUpdate(PlainMailRow, { id: 1 }, given);
  await drain();
  expect(await rows()).toMatchObject([given]);
});

test('what is gone from the queue when the answer comes is gone', async () => {
  await queue({});
  onSend = () => stage.orm.em.fork().nativeDelete(PlainMailRow, { id: 1 });
  await drain();
  expect(sent).toHaveLength(1);
  expect(await rows()).toEqual([]);
});

test('what a dead process was handing over is unclear, and that of others goes on', async () => {
  await queue(
    { forward: 'handing', claimedBy: 'dead' },
    { forward: 'handing', claimedBy: 'alive' },
    { claimedBy: 'dead', forward: 'sent' },
  );
  await releasePlainMail(asTx(stage.orm.em.fork()), ['dead']);
  expect(await rows()).toMatchObject([
    { forward: 'uncertain', claimedBy: null },
    { forward: 'handing', claimedBy: 'alive' },
    { forward: 'sent', claimedBy: 'dead' },
  ]);
  await drain();
  expect(sent).toEqual([]);
});
