// Runs on PostgreSQL too.
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import type { Hint } from '@zest-bell/core/lookout';
import type { InboxAnswer, StudentAnswer } from '@zest-bell/core/exchange';
import { Access, Account } from '../../access/entity.ts';
import { hashPassword } from '../../access/passwords.ts';
import { PersonRow } from '../../course/entity.ts';
import { MessageRow } from '../../mail/nudges/entity.ts';
import { PlainMailRow } from '../../mail/plainMail/entity.ts';
import { RuleRow } from '../../rules/entity.ts';
import { ReplyRow } from '../../mail/replies/entity.ts';
import { runDueRounds } from '../../rounds/deciding/scheduler.ts';
import { openSmtp, type TestSmtp } from '../../testing/smtp.ts';
import { at, COURSE, openStage, PASSWORD, REPLY_DOMAIN, type Agent, type TestStage } from '../../testing/stage.ts';
import { nextDigestAt, writeDigests } from './digest.ts';
import { unguarded } from '../../testing/unguarded.ts';

let stage: TestStage;
let smtp: TestSmtp;
let ada: Agent;
const ONE = [COURSE.people[0]!, COURSE.people[3]!];
beforeEach(async () => {
  smtp = await openSmtp();
  stage = await openStage({ now: '2026-09-04T12:00', smtp: smtp.url, answers: 'server', course: { people: ONE } });
  ada = await stage.signIn();
  stage.clock.set(at('2026-09-05T09:30'));
  await runDueRounds(stage.services);
  await stage.dispatcher.drain();
  stage.clock.set(at('2026-09-06T10:00'));
  const em = unguarded(stage.orm);
  em.create(ReplyRow, {
    course: 1,
    nudge: 1,
    student: 'p1',
    kind: 'reply',
    at: at('2026-09-06T09:00'),
    messageId: '<theirs@saltmarsh.example>',
    fromName: 'P1 Lind',
    fromAddress: 'p1@saltmarsh.example',
    subject: 'Re: A quiet week',
    text: 'I am back!\nMonday?',
  });
  await em.flush();
});
afterEach(async () => {
  await stage.close();
  await smtp.close();
});

const inbox = async () => (await ada.get('/api/v1/inbox').expect(200)).body as InboxAnswer;

describe('the inbox', () => {
  test('counts what waits in each course of the person, and has the open replies', async () => {
    const em = unguarded(stage.orm);
    await em.nativeUpdate(PersonRow, { key: 'p1' }, { bouncedAt: at('2026-09-06T09:30') });
    const answer = await inbox();
    expect(answer.digest).toBe('off');
    expect(answer.courses).toMatchObject([
      { course: 1, code: 'NAV 120', waiting: 0, replies: 1, bounced: 1, troubles: 0 },
    ]);
    expect(answer.replies).toMatchObject([
      { id: 1, course: 1, nudge: 1, student: 'p1', name: 'P1 Lind', text: 'I am back!\nMonday?' },
    ]);
  });

  test('says of an open reply whether the rule that it answers stops at it', async () => {
    const rule = async () => (await inbox()).replies[0]!.rule;
    const em = unguarded(stage.orm);
    const { document } = await em.findOneOrFail(RuleRow, { key: 'away' });
    const set = (repeat: object) => em.nativeUpdate(RuleRow, { key: 'away' }, { document: { ...document, repeat } });
    await set({});
    expect(await rule()).toMatchObject({ stops: false });
    await set({ untilReply: true });
    expect(await rule()).toMatchObject({ stops: true, steps: 1 });
    await em.nativeUpdate(RuleRow, { key: 'away' }, { status: 'paused' });
    expect(await rule()).toBeNull();
  });

  test('is of one’s own courses alone', async () => {
    const em = unguarded(stage.orm);
    em.create(Account, {
      name: 'Eve',
      email: 'eve@saltmarsh.example',
      passwordHash: await hashPassword(PASSWORD),
      createdAt: 0,
    });
    await em.flush();
    const eve = await stage.signIn('eve@saltmarsh.example');
    const answer = (await eve.get('/api/v1/inbox').expect(200)).body as InboxAnswer;
    expect(answer).toMatchObject({ courses: [], replies: [] });
    await eve.post('/api/v1/courses/1/replies/1/answer').send({ text: 'Hello' }).expect(404);
    await eve.put('/api/v1/courses/1/replies/1').send({ settled: true }).expect(404);
    await eve.get('/api/v1/courses/1/hints').expect(404);
  });
});

describe('a reply', () => {
  test('is answered in its thread, from the instructor’s address, and is settled then', async () => {
    await ada.post('/api/v1/courses/1/replies/1/answer').send({ text: 'Monday at ten is fine.' }).expect(200);
    const { mail, to } = smtp.mails.at(-1)!;
    expect(to).toEqual(['p1@saltmarsh.example']);
    expect(mail.from?.value[0]?.address).toBe('ada@saltmarsh.example');
    // RFC 5322 §3.6.4: both headers name the mail that is answered.
    expect(mail.inReplyTo).toBe('<theirs@saltmarsh.example>');
    expect(mail.references).toBe('<theirs@saltmarsh.example>');
    expect(mail.subject).toBe('Re: A quiet week');
    expect(mail.text).toMatch(/^Monday at ten is fine\.\n\nP1 Lind wrote:\n> I am back!\n> Monday\?/);
    expect(mail.replyTo?.value[0]?.address).toMatch(new RegExp(`@${REPLY_DOMAIN}$`));
    expect((await inbox()).replies).toEqual([]);
    // A second window, or a double click.
    await ada.post('/api/v1/courses/1/replies/1/answer').send({ text: 'Monday at ten is fine.' }).expect(409);
    expect(await unguarded(stage.orm).find(PlainMailRow, {})).toMatchObject([{ kind: 'answer' }]);
    expect(await unguarded(stage.orm).find(MessageRow, { nudge: null })).toMatchObject([{ state: 'sent' }]);
  });

  test('an answer is tried again when the mail server fails for now, and is sent once', async () => {
    smtp.answer = { code: 451, at: 'data' };
    await ada.post('/api/v1/courses/1/replies/1/answer').send({ text: 'Fine.' }).expect(200);
    const count = smtp.mails.length;
    smtp.answer = 'accept';
    stage.clock.set(at('2026-09-06T12:00'));
    await stage.dispatcher.drain();
    await stage.dispatcher.drain();
    expect(smtp.mails).toHaveLength(count + 1);
  });

  test('is settled without an answer, and opened again; an empty answer names its field', async () => {
    await ada.put('/api/v1/courses/1/replies/1').send({ settled: true }).expect(204);
    expect((await inbox()).courses[0]!.replies).toBe(0);
    await ada.put('/api/v1/courses/1/replies/1').send({ settled: false }).expect(204);
    expect((await inbox()).courses[0]!.replies).toBe(1);
    const refused = await ada.post('/api/v1/courses/1/replies/1/answer').send({ text: '  ' }).expect(400);
    expect((refused.body as { problems: object[] }).problems).toMatchObject([
      { path: 'text', message: 'Type your answer' },
    ]);
    await ada.put('/api/v1/courses/1/replies/99').send({ settled: true }).expect(404);
  });

  test('both stand on the student’s page', async () => {
    const answer = (await ada.get('/api/v1/courses/1/students/p1').expect(200)).body as StudentAnswer;
    expect(answer.lines.map((l) => l.kind)).toContain('reply');
    await ada.post('/api/v1/courses/1/replies/1/answer').send({ text: 'Monday at ten is fine.' }).expect(200);
    const later = (await ada.get('/api/v1/courses/1/students/p1').expect(200)).body as StudentAnswer;
    expect(later.lines).toContainEqual({
      kind: 'answer',
      at: at('2026-09-06T10:00'),
      nudge: 1,
      by: 'Ada Lind',
      text: 'Monday at ten is fine.',
    });
  });
});

describe('the summary by mail', () => {
  test('comes on the next morning with what waits, once, and names no student', async () => {
    await ada.put('/api/v1/inbox/digest').send({ digest: 'daily' }).expect(204);
    await stage.dispatcher.drain();
    expect(smtp.mails).toHaveLength(1);
    stage.clock.set(at('2026-09-07T07:00'));
    await stage.dispatcher.drain();
    await stage.dispatcher.drain();
    expect(smtp.mails).toHaveLength(2);
    const { mail, to } = smtp.mails.at(-1)!;
    expect(to).toEqual(['ada@saltmarsh.example']);
    expect(mail.text).toMatch(/NAV 120 .*\n- 1 reply to answer/);
    expect(mail.text).not.toContain('P1');
    const account = await unguarded(stage.orm).findOneOrFail(Account, { email: 'ada@saltmarsh.example' });
    expect(account.digestAt).toBe(at('2026-09-08T07:00'));
  });

  test('is written once although two processes look at the same moment', async () => {
    await ada.put('/api/v1/inbox/digest').send({ digest: 'daily' }).expect(204);
    for (let day = 7; day <= 12; day++) {
      stage.clock.set(at(`2026-09-${String(day).padStart(2, '0')}T07:00`));
      await Promise.all([writeDigests(stage.services), writeDigests(stage.services)]);
      expect(await unguarded(stage.orm).count(PlainMailRow, { kind: 'digest' })).toBe(day - 6);
    }
  });

  test('is not written when nothing waits, or when nobody asked for it', async () => {
    await ada.put('/api/v1/inbox/digest').send({ digest: 'daily' }).expect(204);
    await ada.put('/api/v1/courses/1/replies/1').send({ settled: true }).expect(204);
    await unguarded(stage.orm).nativeDelete(Access, {});
    stage.clock.set(at('2026-09-07T07:00'));
    await stage.dispatcher.drain();
    expect(smtp.mails).toHaveLength(1);
    await ada.put('/api/v1/inbox/digest').send({ digest: 'off' }).expect(204);
    expect((await inbox()).digest).toBe('off');
    await ada.put('/api/v1/inbox/digest').send({ digest: 'hourly' }).expect(400);
  });

  test('is due at seven in the morning of the zone, on a Monday when weekly, across a clock change as well', () => {
    const zone = 'America/New_York';
    expect(nextDigestAt('off', at('2026-09-06T10:00'), zone)).toBeNull();
    expect(nextDigestAt('daily', at('2026-09-06T06:59'), zone)).toBe(at('2026-09-06T07:00'));
    expect(nextDigestAt('daily', at('2026-09-06T07:00'), zone)).toBe(at('2026-09-07T07:00'));
    expect(nextDigestAt('weekly', at('2026-10-26T08:00'), zone)).toBe(at('2026-11-02T07:00'));
  });
});

test('hints are about the week, and know whom a message has reached', async () => {
  const hints = (await ada.get('/api/v1/courses/1/hints').expect(200)).body as Hint[];
  expect(hints).toMatchObject([
    { kind: 'neverVisited', students: ['p1'] },
    { kind: 'repliesWait', students: ['p1'], when: null },
  ]);
});
