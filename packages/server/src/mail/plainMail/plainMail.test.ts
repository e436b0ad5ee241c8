/** Mail that is no nudge leaves by the one outbox, with what holds for all mail and without what is about nudges. */
import { asTx } from '../../testing/asTx.ts';
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { retryDelay, troubleDelay, type DeliveryOutcome } from '@zest-bell/core/nudges';
import { at, openStage, type TestStage } from '../../testing/stage.ts';
import { CourseRow } from '../../course/entity.ts';
import type { OutgoingMail } from '../../platform/mail/mail.ts';
import { AttemptRow } from '../nudges/attempt.ts';
import { MessageRow } from '../nudges/entity.ts';
import { WorkerRow } from '../outbox/entity.ts';
import { machine } from '../outbox/worker.ts';
import { Dispatcher } from '../outbox/dispatcher.ts';
import { SendingRow } from '../sendings/entity.ts';
import type { PlainMailRow } from './entity.ts';
import { queuePlainMail } from './queue.ts';
import { unguarded } from '../../testing/unguarded.ts';

// At night: a summary is for the morning, and an answer is what somebody just wrote.
const NOW = at('2026-09-10T03:00');
/** An attempt after which a message is given up. */
const LAST = Array.from({ length: 100 }, (_, i) => i + 1).find((attempts) => retryDelay(attempts) === null)!;

let stage: TestStage;
let sent: OutgoingMail[];
let answers: DeliveryOutcome[];
beforeEach(async () => {
  stage = await openStage({ now: '2026-09-10T03:00' });
  sent = [];
  answers = [{ kind: 'sent', response: '250 ok' }];
});
afterEach(() => stage.close());
const em = () => unguarded(stage.orm);

const dispatcher = () =>
  new Dispatcher({
    ...stage.services,
    mail: {
      ...stage.services.mail,
      handOver: async (mail, mayBegin) => {
        if (!(await mayBegin())) return null;
        sent.push(mail);
        return Promise.resolve(answers.length > 1 ? answers.shift()! : answers[0]!);
      },
    },
  });

const queue = (more: Partial<PlainMailRow> = {}, to: { sending?: number; now?: number } = {}) =>
  queuePlainMail(
    asTx(em()),
    {
      kind: 'answer' as const,
      course: 1,
      reply: null,
      nudge: null,
      by: 'Ada',
      at: NOW - 5,
      subject: 'Re: a quiet week',
      text: 'See you.\nMonday?',
      messageId: '<a@zestbell.example>',
      inReplyTo: '<q@saltmarsh.example>',
      ...more,
    },
    { name: 'P1 Lind', address: 'p1@saltmarsh.example', now: NOW, ...to },
  );
const rows = () => em().find(MessageRow, {}, { orderBy: { id: 'asc' } });

test('what is due leaves, the longest due first, at any hour, as it was written, and stands in the log', async () => {
  await queue({ subject: 'second' });
  await queue({ subject: 'first' }, { now: NOW - 60_000 });
  await queue({ subject: 'later' }, { now: NOW + 1 });
  await dispatcher().drain();
  expect(sent.map((m) => m.subject)).toEqual(['first', 'second']);
  expect(sent[0]).toMatchObject({
    from: { address: 'ada@saltmarsh.example' },
    to: { name: 'P1 Lind', address: 'p1@saltmarsh.example' },
    text: 'See you.\nMonday?',
    messageId: '<a@zestbell.example>',
    inReplyTo: '<q@saltmarsh.example>',
    pauseLink: null,
  });
  expect((await rows()).map((r) => [r.state, r.attempts])).toEqual([
    ['sent', 1],
    ['sent', 1],
    ['queued', 0],
  ]);
  expect(await em().find(AttemptRow, {}, { orderBy: { id: 'asc' } })).toMatchObject([
    { subject: 'first', nudge: null, outcome: 'sent', response: '250 ok' },
    { subject: 'second', nudge: null, outcome: 'sent' },
  ]);
});

test.each<[string, DeliveryOutcome, number, Partial<MessageRow>]>([
  ['the line fell when it may have left', { kind: 'unknown', response: '' }, 0, { state: 'uncertain', attempts: 1 }],
  ['it is refused for good', { kind: 'permanent', response: '550' }, 0, { state: 'failed', attempts: 1 }],
  [
    'it is refused for now',
    { kind: 'transient', response: '450' },
    1,
    { state: 'queued', attempts: 2, sendAt: NOW + retryDelay(2)! },
  ],
  ['it was refused too often', { kind: 'transient', response: '450' }, LAST - 1, { state: 'failed', attempts: LAST }],
])('%s', async (_case, outcome, attempts, expected) => {
  answers = [outcome];
  await queue();
  await em().nativeUpdate(MessageRow, {}, { attempts });
  await dispatcher().drain();
  expect(await rows()).toMatchObject([{ ...expected, claimedBy: null }]);
});

test('all of it waits, like any mail, while the server takes nothing, and goes on from where it was', async () => {
  answers = [{ kind: 'unavailable', trouble: 'refused', response: '421' }];
  await queue();
  await queue();
  const one = dispatcher();
  await one.drain();
  expect((await rows()).map((r) => [r.state, r.attempts])).toEqual([
    ['queued', 0],
    ['queued', 0],
  ]);
  expect(await em().count(AttemptRow)).toBe(0);
  const tried = sent.length;
  await one.drain();
  expect(sent).toHaveLength(tried);
  answers = [{ kind: 'sent', response: '250 ok' }];
  stage.clock.set(NOW + troubleDelay(1));
  await one.drain();
  expect((await rows()).map((r) => r.state)).toEqual(['sent', 'sent']);
});

test('nothing leaves of a course whose mail is stopped, nor what can still be taken back', async () => {
  const id = await em().insert(SendingRow, {
    account: 1,
    course: 1,
    kind: 'answer',
    words: 'an answer',
    takeBack: {},
    until: Date.now() + 60_000,
    courseUntil: NOW + 60_000,
  });
  await queue({}, { sending: id });
  await dispatcher().drain();
  expect(sent).toEqual([]);
  await queue({ subject: 'of a summary', kind: 'digest' });
  await em().nativeUpdate(CourseRow, { id: 1 }, { stoppedAt: NOW, stoppedBy: 'Ada' });
  await dispatcher().drain();
  expect(sent).toEqual([]);
  await em().nativeUpdate(CourseRow, { id: 1 }, { stoppedAt: null });
  await dispatcher().drain();
  expect(sent.map((m) => m.subject)).toEqual(['of a summary']);
});

test('a reply that is gone before it was passed on is its own trouble', async () => {
  await queue({ kind: 'forward', reply: 77, nudge: 1 });
  await queue({ subject: 'sound' });
  await dispatcher().drain();
  expect(sent.map((m) => m.subject)).toEqual(['sound']);
  expect(await rows()).toMatchObject([{ state: 'failed', attempts: 0 }, { state: 'sent' }]);
});

test('what a dead process had is unclear where it was begun, and leaves where it was not', async () => {
  const dead = `${machine()}/99999999/dead`;
  await em().insert(WorkerRow, { id: dead, aliveAt: 0 });
  await queue({ subject: 'begun' });
  await queue({ subject: 'not begun' });
  await em().nativeUpdate(MessageRow, {}, { state: 'handing', claimedBy: dead, attempts: 1 });
  await em().nativeUpdate(MessageRow, { id: 1 }, { begunAt: NOW });
  await em().insert(AttemptRow, {
    course: 1,
    message: 1,
    nudge: null,
    at: NOW,
    outcome: 'handing',
    response: '',
    messageId: '<m>',
    recipientName: '',
    address: '',
    fromAddress: '',
    replyTo: '',
    subject: '',
    body: '',
    html: '',
    evidence: [],
  });
  await dispatcher().drain();
  expect(sent.map((m) => m.subject)).toEqual(['not begun']);
  expect((await rows()).map((r) => r.state)).toEqual(['uncertain', 'sent']);
});
