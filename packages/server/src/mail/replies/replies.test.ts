// Runs on PostgreSQL too.
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { once } from 'node:events';
import { connect, type Socket } from 'node:net';
import nodemailer, { type SendMailOptions } from 'nodemailer';
import type { LogAnswer, LogDetail } from '@zest-bell/core/exchange';
import { CourseRow, PersonRow } from '../../course/entity.ts';
import { bumpVersions } from '../../course/versions.ts';
import { NudgeRow } from '../nudges/entity.ts';
import { WorkerRow } from '../outbox/entity.ts';
import { machine } from '../outbox/worker.ts';
import { inTransaction } from '../../platform/database/transaction.ts';
import { runDueRounds } from '../../rounds/deciding/scheduler.ts';
import { openSmtp, type TestSmtp } from '../../testing/smtp.ts';
import { at, COURSE, openStage, REPLY_DOMAIN, ruleOf, type StageSetting, type TestStage } from '../../testing/stage.ts';
import { replyAddress, tagOfAddress } from './address.ts';
import { AttemptRow } from '../nudges/attempt.ts';
import { MessageRow } from '../nudges/entity.ts';
import { ReplyRow } from './entity.ts';
import { openReceiver, type Receiver } from './receiver.ts';
import { unguarded, freely } from '../../testing/unguarded.ts';
import { asTx } from '../../testing/asTx.ts';

let stage: TestStage;
let smtp: TestSmtp;
let receiver: Receiver;
const ONE = [COURSE.people[0]!, COURSE.people[3]!];
const open = async (setting: Partial<StageSetting> = {}) => {
  smtp = await openSmtp();
  stage = await openStage({
    now: '2026-09-04T12:00',
    smtp: smtp.url,
    answers: 'server',
    course: { people: ONE },
    ...setting,
  });
  receiver = await openReceiver(stage.services, {
    port: 0,
    host: '127.0.0.1',
    domain: REPLY_DOMAIN,
    secret: 'secret',
    onArrival: () => undefined,
  });
  await roundAt('2026-09-05T09:30');
};
const roundAt = async (when: string) => {
  stage.clock.set(at(when));
  await runDueRounds(stage.services);
  await stage.dispatcher.drain();
};
afterEach(async () => {
  await receiver.close();
  await stage.close();
  await smtp.close();
});
const replies = () => unguarded(stage.orm).find(ReplyRow, {}, { orderBy: { id: 'asc' } });
/** What is passed on, as it waits in the outbox. */
const forwards = () => unguarded(stage.orm).find(MessageRow, { nudge: null }, { orderBy: { id: 'asc' } });
const TAGGED = replyAddress('secret', REPLY_DOMAIN, { nudge: 1, message: null });

/** A mail to the receiver, as a student's mail program or server would send it. */
async function answer(mail: SendMailOptions, to = TAGGED): Promise<string> {
  const transport = nodemailer.createTransport({ host: '127.0.0.1', port: receiver.port, ignoreTLS: true });
  const from = 'P1 Lind <p1@saltmarsh.example>';
  try {
    const info = await transport.sendMail({ from, to, subject: 'Re: A quiet week', text: 'I am back!', ...mail });
    return (info as { response: string }).response;
  } finally {
    transport.close();
  }
}

describe('an answer', () => {
  beforeEach(() => open());

  test('goes to the tagged address that the message names, is threaded to its nudge, and stands in the log', async () => {
    expect(smtp.mails[0]!.mail.replyTo?.value[0]?.address).toBe(TAGGED);
    await answer({ text: 'I am back!\n\nOn Sat, Sep 5, 2026 Dr. A. Lind wrote:\n> P1, it has been 5 days.' });
    const ada = await stage.signIn();
    const log = (await ada.get('/api/v1/courses/1/log').expect(200)).body as LogAnswer;
    expect(log.lines[0]!.answered).toBe('reply');
    const detail = (await ada.get('/api/v1/courses/1/log/1').expect(200)).body as LogDetail;
    expect(detail.replies).toMatchObject([
      { kind: 'reply', text: 'I am back!', from: 'P1 Lind <p1@saltmarsh.example>', at: at('2026-09-05T09:30') },
    ]);
  });

  test('is passed on to the instructor, once, and an answer to that goes to the student', async () => {
    await answer({});
    await stage.dispatcher.drain();
    await stage.dispatcher.drain();
    expect(smtp.mails).toHaveLength(2);
    const { mail, to } = smtp.mails[1]!;
    expect(to).toEqual(['office@saltmarsh.example']);
    expect(mail.replyTo?.value[0]?.address).toBe('p1@saltmarsh.example');
    expect(mail.from?.value[0]).toEqual({ name: 'P1 Lind (NAV 120)', address: 'ada@saltmarsh.example' });
    expect(mail.text).toContain('I am back!');
    expect((await forwards())[0]!.state).toBe('sent');
  });

  test('waits for a mail server that fails for now', async () => {
    smtp.answer = { code: 451, at: 'data' };
    await answer({});
    await stage.dispatcher.drain();
    expect((await forwards())[0]).toMatchObject({ state: 'queued', attempts: 1 });
    smtp.answer = 'accept';
    stage.clock.set(at('2026-09-05T09:31'));
    await stage.dispatcher.drain();
    expect((await forwards())[0]!.state).toBe('sent');
  });

  test('waits while all mail of the course is stopped', async () => {
    const ada = await stage.signIn();
    await ada.post('/api/v1/courses/1/mail/stop').expect(200);
    await answer({});
    await stage.dispatcher.drain();
    expect((await forwards())[0]!.state).toBe('queued');
    await ada.post('/api/v1/courses/1/mail/start').send({ queued: 'send', missed: 'skip' }).expect(200);
    expect((await forwards())[0]!.state).toBe('sent');
  });

  test('that a dead process was passing on is uncertain, and not passed on again', async () => {
    await answer({});
    // Process ids this high are not given out: the worker is dead at once.
    const dead = `${machine()}/99999999/gone`;
    const em = unguarded(stage.orm);
    await em.insert(WorkerRow, { id: dead, aliveAt: Date.now() });
    await em.nativeUpdate(MessageRow, { nudge: null }, { state: 'handing', claimedBy: dead, attempts: 1, begunAt: 1 });
    const { id, plainMail } = (await forwards())[0]!;
    await em.insert(AttemptRow, {
      course: 1,
      message: id,
      nudge: null,
      at: 1,
      outcome: 'handing',
      response: '',
      messageId: '<f@x.example>',
      recipientName: '',
      address: 'office@saltmarsh.example',
      fromAddress: '',
      replyTo: '',
      subject: '',
      body: '',
      html: '',
      evidence: [],
    });
    expect(plainMail).not.toBeNull();
    await stage.dispatcher.drain();
    expect((await forwards())[0]!.state).toBe('uncertain');
    expect(smtp.mails).toHaveLength(1);
  });

  test('with a header as no mail program writes it is refused for good', async () => {
    for (const headers of [
      Object.fromEntries(Array.from({ length: 3_000 }, (_, i) => [`X-Much-${i}`, 'x'])),
      { 'X-Long': 'x'.repeat(300_000) },
    ]) {
      await expect(answer({ headers })).rejects.toMatchObject({ responseCode: 552 });
    }
    expect(await replies()).toEqual([]);
  });

  test('that comes twice is kept once', async () => {
    for (let i = 0; i < 2; i++) await answer({ messageId: '<same@saltmarsh.example>' });
    expect(await replies()).toHaveLength(1);
  });

  test('of somebody else is shown, and is not the student’s', async () => {
    await answer({ from: 'Mother <m@home.example>' });
    expect((await replies())[0]).toMatchObject({ kind: 'reply', student: null, fromAddress: 'm@home.example' });
  });
});

test('[R5] holds the later steps of the spell', async () => {
  const step = { deliver: 'send', to: ['student'], wording: 'gentle' };
  await open({ rules: [ruleOf({ steps: [step, { ...step, after: { days: 2 } }] })] });
  await answer({});
  await roundAt('2026-09-07T09:30');
  const nudges = await unguarded(stage.orm).find(NudgeRow, {}, { orderBy: { id: 'asc' } });
  expect(nudges.map((n) => [n.step, n.state])).toEqual([
    [0, 'sent'],
    [1, 'held'],
  ]);
});

describe('[R6] a rule that stops at a reply', () => {
  const step = { deliver: 'send', to: ['student'], wording: 'gentle' };
  const stopping = ruleOf({ repeat: { untilReply: true }, steps: [step] });
  const states = async () =>
    (await unguarded(stage.orm).find(NudgeRow, {}, { orderBy: { id: 'asc' } })).map((n) => [n.state, n.reason]);

  test('sends that student nothing more in the spell', async () => {
    await open({ rules: [stopping] });
    await roundAt('2026-09-06T09:30');
    await answer({});
    await roundAt('2026-09-07T09:30');
    expect(await states()).toEqual([
      ['sent', null],
      ['sent', null],
    ]);
    expect(smtp.mails.filter((m) => m.to.includes('p1@saltmarsh.example'))).toHaveLength(2);
  });

  test('withdraws what waits for the end of quiet hours when the reply comes', async () => {
    const settings = { quietHours: { from: '09:00', to: '10:00', days: [] }, budget: null };
    await open({ rules: [stopping] });
    await inTransaction(stage.orm, async (em) => {
      await freely(em).nativeUpdate(CourseRow, { id: 1 }, { settings });
      await bumpVersions(asTx(em), 1);
    });
    await roundAt('2026-09-06T09:30');
    await answer({});
    await roundAt('2026-09-06T10:00');
    expect(await states()).toEqual([
      ['sent', null],
      ['withdrawn', 'replied'],
    ]);
  });
});

describe('what machines send', () => {
  beforeEach(() => open());
  const envelope = { from: '', to: TAGGED };

  test('an out-of-office reply (RFC 3834) is noted, passed on to nobody, and holds nothing', async () => {
    await answer({ headers: { 'Auto-Submitted': 'auto-replied' }, subject: 'Out of office', envelope });
    await stage.dispatcher.drain();
    expect(await replies()).toMatchObject([{ kind: 'autoReply', student: null }]);
    expect(await forwards()).toEqual([]);
    expect(smtp.mails).toHaveLength(1);
  });

  test('a bounce (RFC 3464) marks the address and says why', async () => {
    const raw = [
      'From: mailer-daemon@saltmarsh.example',
      `To: ${TAGGED}`,
      'Subject: Undelivered',
      'MIME-Version: 1.0',
      'Content-Type: multipart/report; report-type=delivery-status; boundary="b"',
      '',
      '--b',
      'Content-Type: text/plain',
      '',
      'No such user.',
      '--b',
      'Content-Type: message/delivery-status',
      '',
      'Reporting-MTA: dns; mx.saltmarsh.example',
      '',
      'Final-Recipient: rfc822; p1@saltmarsh.example',
      'Action: failed',
      'Status: 5.1.1',
      '--b--',
      '',
    ].join('\r\n');
    await answer({ raw, envelope });
    const [bounce] = await replies();
    expect(bounce).toMatchObject({ kind: 'bounce' });
    expect(await forwards()).toEqual([]);
    expect(bounce!.text).toContain('Status: 5.1.1');
    const person = await unguarded(stage.orm).findOneOrFail(PersonRow, { key: 'p1' });
    expect(person.bouncedAt).toBe(at('2026-09-05T09:30'));
  });
});

describe('what is not for a nudge is refused', () => {
  beforeEach(() => open());

  test.each([
    ['another address', 'somebody@bell.saltmarsh.example'],
    ['a forged tag', TAGGED.replace('nudge+1', 'nudge+2')],
    ['another domain', TAGGED.replace(REPLY_DOMAIN, 'other.example')],
    ['a nudge that is not there', replyAddress('secret', REPLY_DOMAIN, { nudge: 99, message: null })],
  ])('%s', async (_name, to) => {
    await expect(answer({}, to)).rejects.toMatchObject({ responseCode: 550 });
    expect(await replies()).toEqual([]);
  });

  test('more than a letter', async () => {
    await expect(answer({ text: 'x'.repeat(3_000_000) })).rejects.toMatchObject({ responseCode: 552 });
  });

  test('what a third party wrote is not the student’s, and their bounce marks no address of the student', async () => {
    const theirs = replyAddress('secret', REPLY_DOMAIN, { nudge: 1, message: 7 });
    await answer({}, theirs);
    await answer(
      {
        envelope: { from: '', to: [theirs] },
        subject: 'Undelivered',
        text: 'Status: 5.1.1\nAction: failed',
        headers: { 'Content-Type': 'multipart/report; report-type=delivery-status' },
      },
      theirs,
    );
    expect((await replies()).map((r) => r.student)).toEqual([null, null]);
    expect((await unguarded(stage.orm).findOneOrFail(PersonRow, { key: 'p1' })).bouncedAt ?? null).toBeNull();
  });

  test('more than a few answers to one nudge a day are kept and no longer passed on', async () => {
    for (let i = 0; i < 8; i++) await answer({ text: `Answer ${i}` });
    const all = await replies();
    expect(all).toHaveLength(8);
    expect(await forwards()).toHaveLength(5);
  });

  test('more than a few recipients', async () => {
    const many = Array.from({ length: 12 }, (_, i) =>
      replyAddress('secret', REPLY_DOMAIN, { nudge: 1, message: i + 1 }),
    );
    const transport = nodemailer.createTransport({ host: '127.0.0.1', port: receiver.port, ignoreTLS: true });
    const info = (await transport.sendMail({ from: 'p1@saltmarsh.example', to: many, text: 'x' })) as unknown as {
      rejected: string[];
    };
    transport.close();
    expect(info.rejected).toHaveLength(2);
  });

  test('an address is read whatever its case', () => {
    expect(tagOfAddress('secret', REPLY_DOMAIN, TAGGED.toUpperCase())).toEqual({ nudge: 1, message: null });
  });
});

test('one address has ten lines at most, however often it is refused another', async () => {
  await open();
  const sockets: Socket[] = [];
  const greeting = async () => {
    const socket = connect(receiver.port, '127.0.0.1');
    sockets.push(socket);
    const [said] = (await once(socket, 'data')) as [Buffer];
    return said.toString().slice(0, 3);
  };
  const said: string[] = [];
  for (let i = 0; i < 30; i++) said.push(await greeting());
  expect(said.filter((code) => code === '220')).toHaveLength(10);
  expect(said.slice(10).every((code) => code === '421')).toBe(true);
  for (const socket of sockets) socket.destroy();
});
