// Runs on PostgreSQL too.
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { DAY, HOUR } from '@zest-bell/core/time';
import { MessageRow, NudgeRow } from '../nudges/entity.ts';
import { runDueRounds } from '../../rounds/deciding/scheduler.ts';
import { AttemptRow } from '../nudges/attempt.ts';
import { openSmtp, type TestSmtp } from '../../testing/smtp.ts';
import {
  at,
  COURSE,
  openStage,
  ruleOf,
  visit,
  type StageSetting,
  type TestStage,
  type Agent,
} from '../../testing/stage.ts';
import { WordingRow } from '../../wording/entity.ts';
import { WorkerRow } from './entity.ts';
import { machine } from './worker.ts';
import { LEASE } from '../../platform/work/lease.ts';
import { unguarded } from '../../testing/unguarded.ts';

let stage: TestStage;
let smtp: TestSmtp;
const one: Partial<StageSetting> = { course: { people: [COURSE.people[0]!, COURSE.people[3]!] } };
beforeEach(async () => {
  smtp = await openSmtp();
});
afterEach(async () => {
  await stage.close();
  await smtp.close();
});

/** A stage with one student and a queued nudge of Sep 5, 9:30. */
async function queued(setting: Partial<StageSetting> = {}): Promise<void> {
  stage = await openStage({ now: '2026-09-04T12:00', smtp: smtp.url, ...one, ...setting });
  stage.clock.set(at('2026-09-05T09:30'));
  await runDueRounds(stage.services);
}
const message = () => unguarded(stage.orm).findOneOrFail(MessageRow, { id: 1 });
const nudge = () => unguarded(stage.orm).findOneOrFail(NudgeRow, { id: 1 });
const attempts = () => unguarded(stage.orm).find(AttemptRow, {}, { orderBy: { id: 'asc' } });

describe('a message that is accepted', () => {
  test('stands in the log with its exact text, recipient, evidence, Message-ID and the server’s answer', async () => {
    await queued();
    await stage.dispatcher.drain();
    const [mail] = smtp.mails;
    const [attempt] = await attempts();
    expect(attempt).toMatchObject({
      outcome: 'sent',
      address: 'p1@saltmarsh.example',
      replyTo: 'office@saltmarsh.example',
      subject: 'A quiet week in Coastal Navigation',
      body: 'P1,\n\nit has been 5 days.\n\nA. Lind',
      messageId: mail!.mail.messageId,
    });
    expect(attempt!.response).toMatch(/^250 .*taken/);
    expect(attempt!.evidence).toMatchObject([{ measure: 'daysSinceVisit', value: 5, verdict: true }]);
    expect(mail!.mail.text!.trim()).toBe(attempt!.body);
    expect(mail!.mail.html).toContain('<p>it has been 5 days.</p>');
    expect((await nudge()).state).toBe('sent');
  });

  test('has the headers that the standards ask for', async () => {
    await queued();
    await stage.dispatcher.drain();
    const { mail } = smtp.mails[0]!;
    // RFC 5322 §3.6: Date, From, To, Message-ID, Subject, each once. Parsed back by mailparser.
    for (const key of ['date', 'from', 'to', 'message-id', 'subject']) {
      expect(mail.headerLines.filter((h) => h.key === key)).toHaveLength(1);
    }
    expect(mail.date).toEqual(new Date(at('2026-09-05T09:30')));
    expect(mail.replyTo?.value[0]?.address).toBe('office@saltmarsh.example');
    // RFC 3834 §5: no vacation responder answers it.
    expect(mail.headers.get('auto-submitted')).toBe('auto-generated');
  });

  test('a name with a line break in it makes no header of its own', async () => {
    await queued({
      course: { people: [{ ...COURSE.people[0]!, firstName: 'Ann\r\nBcc: spy@evil.example', lastName: 'Ü “Q”' }] },
    });
    await stage.dispatcher.drain();
    const { mail, to } = smtp.mails[0]!;
    expect(to).toEqual(['p1@saltmarsh.example']);
    expect(mail.bcc).toBeUndefined();
    expect(mail.headerLines.some((h) => h.key === 'bcc')).toBe(false);
  });
});

describe('a mail server that fails', () => {
  test('for now (RFC 5321 4yz) is tried again, ever later, with a row an attempt, until it works', async () => {
    await queued();
    smtp.answer = { code: 451, at: 'data' };
    await stage.dispatcher.drain();
    expect(await message()).toMatchObject({ state: 'queued', attempts: 1, sendAt: at('2026-09-05T09:31') });
    await stage.dispatcher.drain();
    expect(await attempts()).toHaveLength(1);
    stage.clock.set(at('2026-09-05T09:31'));
    await stage.dispatcher.drain();
    expect(await message()).toMatchObject({ attempts: 2, sendAt: at('2026-09-05T09:36') });
    smtp.answer = 'accept';
    stage.clock.set(at('2026-09-05T09:36'));
    await stage.dispatcher.drain();
    expect((await attempts()).map((a) => a.outcome)).toEqual(['transient', 'transient', 'sent']);
    expect(smtp.mails).toHaveLength(1);
  });

  test('for good (5yz) stops at once, and the refusal is kept', async () => {
    await queued();
    smtp.answer = { code: 550, at: 'rcpt' };
    await stage.dispatcher.drain();
    expect((await nudge()).state).toBe('failed');
    expect((await attempts())[0]).toMatchObject({ outcome: 'permanent' });
    expect((await attempts())[0]!.response).toContain('550');
  });

  test('by dropping the line after the text leaves it uncertain, and it is never sent again by itself', async () => {
    await queued();
    smtp.answer = 'dropAfterData';
    await stage.dispatcher.drain();
    expect((await nudge()).state).toBe('uncertain');
    smtp.answer = 'accept';
    stage.clock.set(at('2026-09-06T12:00'));
    await stage.dispatcher.drain();
    expect(smtp.mails).toHaveLength(0);
  });

  test('without end is given up after days, and can be sent again by hand', async () => {
    await queued({ rules: [ruleOf({ when: { measure: 'daysEnrolled', is: '>=', value: 5 } })] });
    smtp.answer = { code: 451, at: 'data' };
    for (let i = 0; i < 20; i++) {
      await stage.dispatcher.drain();
      stage.clock.set(stage.clock.now() + 8 * HOUR);
    }
    expect((await message()).state).toBe('failed');
    expect(stage.clock.now() - at('2026-09-05T09:30')).toBeGreaterThan(4 * DAY);
    smtp.answer = 'accept';
    const ada = await stage.signIn();
    const again = await ada.post('/api/v1/courses/1/log/messages/1/settle').send({ as: 'sendAgain' }).expect(200);
    expect(again.body.state).toBe('sent');
  });
});

/** The log row of a message on its way. */
const HANDING = {
  course: 1,
  message: 1,
  nudge: 1,
  at: at('2026-09-05T09:30'),
  outcome: 'handing' as const,
  response: '',
  messageId: '<m@x.example>',
  recipientName: '',
  address: 'p1@saltmarsh.example',
  fromAddress: '',
  replyTo: '',
  subject: '',
  body: '',
  html: '',
  files: [],
  evidence: [],
};

describe('what a dead process left behind', () => {
  test('is uncertain, and the instructor says what became of it', async () => {
    await queued();
    const em = unguarded(stage.orm);
    // Process ids this high are not given out: the worker is dead at once.
    const dead = `${machine()}/99999999/gone`;
    await em.insert(WorkerRow, { id: dead, aliveAt: Date.now() });
    await em.nativeUpdate(MessageRow, { id: 1 }, { state: 'handing', claimedBy: dead, attempts: 1, begunAt: 1 });
    await em.nativeUpdate(NudgeRow, { id: 1 }, { state: 'handing' });
    await em.insert(AttemptRow, HANDING);
    await stage.dispatcher.drain();
    expect((await nudge()).state).toBe('uncertain');
    expect((await attempts())[0]).toMatchObject({ outcome: 'unknown' });
    expect(smtp.mails).toHaveLength(0);
    expect(await em.count(WorkerRow, { id: dead })).toBe(0);

    const ada = await stage.signIn();
    const detail = await ada.post('/api/v1/courses/1/log/messages/1/settle').send({ as: 'sendAgain' }).expect(200);
    expect(detail.body.state).toBe('sent');
    expect(smtp.mails).toHaveLength(1);
    const twice = await ada.post('/api/v1/courses/1/log/messages/1/settle').send({ as: 'arrived' }).expect(409);
    expect(twice.body.code).toBe('notUncertain');
  });

  test('is sent when it was claimed and never begun, and its log row goes', async () => {
    await queued();
    const em = unguarded(stage.orm);
    const dead = `${machine()}/99999999/gone`;
    await em.insert(WorkerRow, { id: dead, aliveAt: Date.now() });
    await em.nativeUpdate(MessageRow, { id: 1 }, { state: 'handing', claimedBy: dead, attempts: 1 });
    await em.insert(AttemptRow, HANDING);
    await stage.dispatcher.drain();
    expect(await message()).toMatchObject({ state: 'sent', attempts: 1 });
    expect(smtp.mails).toHaveLength(1);
    expect((await attempts()).map((a) => a.outcome)).toEqual(['sent']);
  });

  test('of a process that still runs on this machine is left alone, until it has been silent for long', async () => {
    await queued();
    const alive = `${machine()}/${process.ppid}/x`;
    const em = unguarded(stage.orm);
    await em.insert(WorkerRow, { id: alive, aliveAt: Date.now() - LEASE / 2 });
    await em.nativeUpdate(MessageRow, { id: 1 }, { state: 'handing', claimedBy: alive });
    await stage.dispatcher.drain();
    expect((await message()).state).toBe('handing');
    // As one that was stopped: what it had not begun is taken over.
    await em.nativeUpdate(WorkerRow, { id: alive }, { aliveAt: Date.now() - 2 * LEASE });
    await stage.dispatcher.drain();
    expect((await message()).state).toBe('sent');
  });

  test('of a living process is left alone', async () => {
    await queued();
    const em = unguarded(stage.orm);
    await em.insert(WorkerRow, { id: 'another-machine/1/x', aliveAt: Date.now() });
    await em.nativeUpdate(MessageRow, { id: 1 }, { state: 'handing', claimedBy: 'another-machine/1/x' });
    await stage.dispatcher.drain();
    expect((await message()).state).toBe('handing');
  });
});

describe('[R9] the second look', () => {
  test('withdraws what is no longer true: a night round, quiet hours, and a return at 2 AM (worked example 5)', async () => {
    stage = await openStage({
      now: '2026-09-05T22:00',
      smtp: smtp.url,
      course: { ...one.course, settings: { quietHours: { from: '21:00', to: '07:00', days: [] }, budget: null } },
      rules: [ruleOf({ rhythm: { start: '2026-08-31T23:00', rrule: 'FREQ=DAILY' } })],
    });
    stage.clock.set(at('2026-09-05T23:00'));
    await runDueRounds(stage.services);
    await stage.dispatcher.drain();
    expect(await message()).toMatchObject({ state: 'queued', sendAt: at('2026-09-06T07:00') });
    stage.clock.set(at('2026-09-06T07:00'));
    await stage.tell([visit('p1', '2026-09-06T02:00')]);
    await stage.dispatcher.drain();
    expect(await nudge()).toMatchObject({ state: 'withdrawn', reason: 'noLongerTrue' });
    expect(smtp.mails).toHaveLength(0);
  });

  test('withdraws what a rule turned off meanwhile had queued', async () => {
    await queued();
    const ada = await stage.signIn();
    await ada
      .post('/api/v1/courses/1/rules/status')
      .send({ status: 'paused', rules: [{ rule: 'away', version: 1 }] })
      .expect(200);
    await stage.dispatcher.drain();
    expect(await nudge()).toMatchObject({ state: 'withdrawn', reason: 'ruleOff' });
  });

  test('[R9] at the end of the course nothing is handed over, a moment before it is', async () => {
    const lastDays = { rhythm: { start: '2026-08-31T09:30', rrule: 'FREQ=DAILY' }, repeat: {} };
    stage = await openStage({ now: '2026-12-18T09:00', smtp: smtp.url, ...one, rules: [ruleOf(lastDays)] });
    stage.clock.set(at('2026-12-18T09:30'));
    await runDueRounds(stage.services);
    stage.clock.set(at('2026-12-19T00:00'));
    await stage.dispatcher.drain();
    expect(await nudge()).toMatchObject({ state: 'withdrawn', reason: 'courseOver' });
    await unguarded(stage.orm).nativeUpdate(MessageRow, { id: 1 }, { state: 'queued' });
    stage.clock.set(at('2026-12-19T00:00') - 1);
    await stage.dispatcher.drain();
    expect((await message()).state).toBe('sent');
  });

  test('[R8] quiet hours that last until the end of the course withdraw what waits for them', async () => {
    const settings = { quietHours: { from: '09:31', to: '00:00', days: [] }, budget: null };
    stage = await openStage({
      now: '2026-12-18T09:00',
      smtp: smtp.url,
      course: { ...one.course, settings },
      rules: [ruleOf({ repeat: {} })],
    });
    stage.clock.set(at('2026-12-18T09:30'));
    await runDueRounds(stage.services);
    stage.clock.set(at('2026-12-18T09:31'));
    await stage.dispatcher.drain();
    expect(await nudge()).toMatchObject({ state: 'withdrawn', reason: 'courseOver' });
  });

  test('[R8] quiet hours apply to a retry too', async () => {
    await queued({ course: { ...one.course, settings: { quietHours: { from: '09:31', to: '13:00' }, budget: null } } });
    smtp.answer = { code: 451, at: 'data' };
    await stage.dispatcher.drain();
    smtp.answer = 'accept';
    stage.clock.set(at('2026-09-05T09:31'));
    await stage.dispatcher.drain();
    expect(await message()).toMatchObject({ state: 'queued', sendAt: at('2026-09-05T13:00') });
    expect(smtp.mails).toHaveLength(0);
  });

  test('renders from the facts of that moment', async () => {
    await queued();
    stage.clock.set(at('2026-09-06T10:00'));
    await stage.dispatcher.drain();
    expect((await attempts())[0]!.body).toContain('it has been 6 days.');
  });
});

test('a wording that broke after the decision fails its nudge instead of waiting for ever', async () => {
  await queued();
  await unguarded(stage.orm).nativeUpdate(WordingRow, { key: 'gentle' }, { body: '{{ student.fist_name }}' });
  await stage.dispatcher.drain();
  expect((await nudge()).state).toBe('failed');
  expect(smtp.mails).toHaveLength(0);
});

describe('[R9] a held nudge', () => {
  const held = async () => {
    await queued({ rules: [ruleOf({ steps: [{ deliver: 'hold', to: ['student'], wording: 'gentle' }] })] });
    return stage.signIn();
  };
  const decide = (ada: Agent, as: string) => ada.post('/api/v1/courses/1/log/1/decide').send({ as, messages: [1] });

  test('leaves when the instructor says yes, once', async () => {
    const ada = await held();
    expect((await nudge()).state).toBe('held');
    expect((await decide(ada, 'send').expect(200)).body.state).toBe('sent');
    expect((await decide(ada, 'send').expect(409)).body.code).toBe('notHeld');
    expect(smtp.mails).toHaveLength(1);
  });

  test('gets its second look at that moment', async () => {
    const ada = await held();
    stage.clock.set(at('2026-09-06T12:00'));
    await stage.tell([visit('p1', '2026-09-06T08:00')]);
    expect((await decide(ada, 'send').expect(200)).body).toMatchObject({ state: 'withdrawn', reason: 'noLongerTrue' });
    expect(smtp.mails).toEqual([]);
  });

  test('is dismissed for good, and still counts for the repeat limit [R3]', async () => {
    const ada = await held();
    expect((await decide(ada, 'dismiss').expect(200)).body.state).toBe('dismissed');
    stage.clock.set(at('2026-09-06T09:30'));
    await runDueRounds(stage.services);
    await stage.dispatcher.drain();
    expect(smtp.mails).toEqual([]);
    expect(await unguarded(stage.orm).count(NudgeRow)).toBe(1);
  });
});

describe('a wording of several texts', () => {
  const texts = ['one', 'two', 'three'];
  const open = async () => {
    await queued({ rules: [ruleOf({ repeat: {} })] });
    const variants = texts.slice(1).map((t) => ({ subject: t, text: `${t} {{ student.first_name }}` }));
    await unguarded(stage.orm).nativeUpdate(WordingRow, { key: 'gentle' }, { subject: 'one', body: 'one', variants });
    await stage.dispatcher.drain();
  };

  test('never gives a student the same one twice running, and comes round to all', async () => {
    await open();
    for (const day of ['06', '07', '08']) {
      stage.clock.set(at(`2026-09-${day}T09:30`));
      await runDueRounds(stage.services);
      await stage.dispatcher.drain();
    }
    const got = smtp.mails.map((m) => m.mail.subject!);
    expect(new Set(got.slice(0, 3))).toEqual(new Set(texts));
    expect(got[3]).toBe(got[0]);
  });

  test('shows in a rehearsal whose turn it is', async () => {
    await open();
    const ada = await stage.signIn();
    const rule = { ...ruleOf({ repeat: {} }), spellsFrom: null };
    const rehearsed = await ada
      .post('/api/v1/courses/1/rules/rehearse')
      .send({ rule, at: at('2026-09-06T09:30') })
      .expect(200);
    stage.clock.set(at('2026-09-06T09:30'));
    await runDueRounds(stage.services);
    await stage.dispatcher.drain();
    expect(rehearsed.body.nudges[0].messages[0].message.subject).toBe(smtp.mails.at(-1)!.mail.subject);
  });

  test('gives a retry the text that was chosen first', async () => {
    await open();
    const first = smtp.mails[0]!.mail.subject!;
    smtp.answer = { code: 451, at: 'data' };
    stage.clock.set(at('2026-09-06T09:30'));
    await runDueRounds(stage.services);
    await stage.dispatcher.drain();
    smtp.answer = 'accept';
    stage.clock.set(at('2026-09-06T09:31'));
    await stage.dispatcher.drain();
    const tried = (await attempts()).slice(-2).map((a) => a.subject);
    expect(tried[0]).toBe(tried[1]);
    expect(tried[0]).not.toBe(first);
  });
});
