// Runs on PostgreSQL too.
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import request from 'supertest';
import { PersonRow } from '../../course/entity.ts';
import { NudgeRow } from '../nudges/entity.ts';
import { ReplyRow } from '../replies/entity.ts';
import { runDueRounds } from '../../rounds/deciding/scheduler.ts';
import { openSmtp, type TestSmtp } from '../../testing/smtp.ts';
import { at, COURSE, openStage, ruleOf, visit, type StageSetting, type TestStage } from '../../testing/stage.ts';
import type { InboxAnswer } from '@zest-bell/core/exchange';
import { nudgeOfToken, pauseToken } from './token.ts';
import { unguarded } from '../../testing/unguarded.ts';

let stage: TestStage;
let smtp: TestSmtp;
beforeEach(async () => {
  smtp = await openSmtp();
});
afterEach(async () => {
  await stage.close();
  await smtp.close();
});
const ONE = [COURSE.people[0]!, COURSE.people[3]!];
const URL = 'https://bell.saltmarsh.example';
const open = async (setting: Partial<StageSetting> = {}) => {
  stage = await openStage({
    now: '2026-09-04T12:00',
    smtp: smtp.url,
    publicUrl: URL,
    course: { people: ONE },
    ...setting,
  });
};
const roundAt = async (when: string) => {
  stage.clock.set(at(when));
  await runDueRounds(stage.services);
  await stage.dispatcher.drain();
};
const linkOf = (i: number) => /<https:\/\/[^/]+(\/p\/[^>]+)>/.exec(header(i, 'list-unsubscribe')!)![1]!;
const header = (i: number, key: string) =>
  smtp.mails[i]!.mail.headerLines.find((h) => h.key === key)?.line.replace(/\r?\n\s+/g, ' ');
const person = () => unguarded(stage.orm).findOneOrFail(PersonRow, { key: 'p1' });

describe('the link in a message', () => {
  test('stands in its headers as RFC 2369 and RFC 8058 ask, and in the text; third parties get none', async () => {
    await open({ rules: [ruleOf({ steps: [{ deliver: 'send', to: ['student', 'instructor'], wording: 'gentle' }] })] });
    await roundAt('2026-09-05T09:30');
    const own = smtp.mails.findIndex((m) => m.to[0] === 'p1@saltmarsh.example');
    expect(header(own, 'list-unsubscribe')).toMatch(
      /^List-Unsubscribe: <https:\/\/bell\.saltmarsh\.example\/p\/1\.[\w-]{32}>$/,
    );
    expect(header(own, 'list-unsubscribe-post')).toBe('List-Unsubscribe-Post: List-Unsubscribe=One-Click');
    expect(smtp.mails[own]!.mail.text).toContain(`or pause such messages: ${URL}${linkOf(own)}`);
    const other = smtp.mails[1 - own]!.mail;
    expect(other.headerLines.some((h) => h.key.startsWith('list-'))).toBe(false);
    expect(other.text).not.toContain('/p/');
  });

  test('is signed: no other nudge is reached by guessing', () => {
    const token = pauseToken('secret', 7);
    expect(nudgeOfToken('secret', token)).toBe(7);
    for (const forged of [token.replace('7.', '8.'), `${token}x`, '7.', '7', 'x.y', pauseToken('other', 7)]) {
      expect(nudgeOfToken('secret', forged)).toBeNull();
    }
  });

  test('says what its rule looks for and what else is looked at, and takes what is wrong as a reply', async () => {
    await open();
    await stage.tell([visit('p1', '2026-08-31T10:00')]);
    await roundAt('2026-09-05T10:30');
    const page = await request(stage.app).get(linkOf(0)).expect(200);
    expect(page.text).toContain('A rule looks for students who have not visited the course for 5 days.');
    expect(page.text).toContain('Rules of this course look at: days since last visit.');
    const tell = (text: string) =>
      request(stage.app)
        .post(`${linkOf(0)}/wrong`)
        .type('form')
        .send({ text });
    await tell(' ').expect(400);
    await tell('海'.repeat(2001)).expect(400);
    const thanks = await tell('I was there <b>yesterday</b>').expect(200);
    expect(thanks.text).toContain('Thank you. Dr. A. Lind reads it.');
    const replies = await unguarded(stage.orm).find(ReplyRow, {});
    expect(replies).toMatchObject([
      { kind: 'reply', student: 'p1', subject: 'This is wrong', fromAddress: 'p1@saltmarsh.example' },
    ]);
    expect(replies[0]!.text).toBe(
      'I was there <b>yesterday</b>\n\nWhat Zest Bell knew when it wrote:\n- last visit Mon Aug 31, 10:00 AM',
    );
    for (let i = 1; i < 5; i++) await tell(`again ${i}`).expect(200);
    await tell('once more').expect(429);
    // Who was erased is known to nobody, here neither.
    await unguarded(stage.orm).nativeDelete(PersonRow, { key: 'p1' });
    await request(stage.app).get(linkOf(0)).expect(404);
    await tell('still me').expect(404);
  });

  test('takes an answer of one press as a reply, with a line if they like, three times for a message', async () => {
    const untilReply = ruleOf({ repeat: { perSpell: 3, perTerm: null, gap: null, untilReply: true } });
    await open({ rules: [untilReply] });
    await stage.tell([visit('p1', '2026-08-31T10:00')]);
    await roundAt('2026-09-05T10:30');
    const at = linkOf(0);
    // A mail scanner that opens the link, and its buttons by their addresses, says nothing in their name.
    await request(stage.app).get(at).expect(200);
    await request(stage.app).get(`${at}/word?word=seen`).expect(303).expect('location', at);
    await request(stage.app).head(at).expect(200);
    expect(await unguarded(stage.orm).count(ReplyRow, {})).toBe(0);
    const say = (body: object) => request(stage.app).post(`${at}/word`).type('form').send(body);
    await say({ word: 'maybe' }).expect(400);
    await say({ word: 'will', line: 'x'.repeat(501) }).expect(400);
    const thanks = await say({ word: 'will', line: 'finish the chart <i>tonight</i>' }).expect(200);
    expect(thanks.text).toContain('Thank you. Dr. A. Lind sees it.');
    // Each of these takes nine bytes in a form.
    await say({ word: 'seen', line: '海'.repeat(500) }).expect(200);
    await say({ word: 'help', line: '' }).expect(200);
    await say({ word: 'help' }).expect(429);
    await request(stage.app).post('/p/1.forged/word').type('form').send({ word: 'seen' }).expect(404);
    const replies = await unguarded(stage.orm).find(ReplyRow, {}, { orderBy: { id: 'asc' } });
    expect(replies).toMatchObject([
      { student: 'p1', kind: 'reply', subject: 'I will …', text: 'I will … finish the chart <i>tonight</i>' },
      { subject: 'I have seen this', text: `I have seen this.\n\n${'海'.repeat(500)}` },
      { subject: 'I need help', text: 'I need help.' },
    ]);
    // It counts as a reply: a rule that asks until they reply asks no more.
    await roundAt('2026-09-07T10:30');
    expect(smtp.mails).toHaveLength(1);
    const ada = await stage.signIn();
    const { replies: shown } = (await ada.get('/api/v1/inbox').expect(200)).body as InboxAnswer;
    expect(JSON.stringify(shown)).toContain('I need help');
  });

  test('opens a page without signing in that says why, and opening it changes nothing', async () => {
    await open();
    await stage.tell([visit('p1', '2026-08-31T10:00')]);
    await roundAt('2026-09-05T10:30');
    const page = await request(stage.app).get(linkOf(0)).expect(200);
    expect(page.text).toContain('P1, this is about messages from Dr. A. Lind in Coastal Navigation');
    expect(page.text).toContain('You get messages like this one.');
    expect(page.text).toContain('last visit Mon Aug 31, 10:00 AM');
    expect((await person()).paused).toBe(false);
    await request(stage.app).get('/p/1.forged').expect(404);
  });
});

describe('a pause', () => {
  const pause = (form: object) => request(stage.app).post(linkOf(0)).type('form').send(form);
  const repeated = {
    rules: [ruleOf({ repeat: {} }), ruleOf({ id: 'urgent', name: 'Urgent', repeat: {}, essential: true })],
  };

  test('until a date: nothing but what is essential comes before it, and it is over by itself', async () => {
    await open(repeated);
    await roundAt('2026-09-05T09:30');
    const page = await pause({ until: 'date', date: '2026-09-08' }).expect(200);
    expect(page.text).toContain('You have paused such messages until Tue Sep 8, 12:00 AM.');
    for (const day of ['06', '07', '08']) await roundAt(`2026-09-${day}T09:30`);
    const sent = await unguarded(stage.orm).find(NudgeRow, { state: 'sent' }, { orderBy: { id: 'asc' } });
    expect(sent.map((n) => [n.rule, new Date(n.roundAt).getUTCDate()])).toEqual([
      ['away', 5],
      ['urgent', 5],
      ['urgent', 6],
      ['urgent', 7],
      ['away', 8],
      ['urgent', 8],
    ]);
    expect(await person()).toMatchObject({ paused: false, pausedUntil: null });
  });

  test('that the instructor sets ends on its day, with the term, or when they resume it', async () => {
    await open(repeated);
    const ada = await stage.signIn();
    const set = (pausedUntil?: string) =>
      ada.post('/api/v1/courses/1/edit').send({ people: [{ id: 'p1', set: { paused: true } }], pausedUntil });
    await set('2026-09-08').expect(200);
    expect(await person()).toMatchObject({ paused: true, pausedUntil: at('2026-09-08T00:00') });
    // Paused already: only its end is another.
    await set('term').expect(200);
    expect(await person()).toMatchObject({ paused: true, pausedUntil: at('2026-12-19T00:00') });
    const refused = await set('2026-09-01').expect(400);
    expect(refused.body).toMatchObject({ problems: [{ path: 'pausedUntil' }] });
    await ada
      .post('/api/v1/courses/1/edit')
      .send({ people: [{ id: 'p1', set: { paused: false } }] })
      .expect(200);
    await set().expect(200);
    expect(await person()).toMatchObject({ paused: true, pausedUntil: null });
  });

  test('by a mail program’s one click lasts until the end of the term; the student may end it', async () => {
    await open();
    await roundAt('2026-09-05T09:30');
    await pause({ 'List-Unsubscribe': 'One-Click' }).expect(200);
    expect(await person()).toMatchObject({ paused: true, pausedUntil: at('2026-12-19T00:00') });
    const page = await pause({ until: 'resume' }).expect(200);
    expect(page.text).toContain('You will get these messages again.');
    expect((await person()).paused).toBe(false);
  });

  test('by one click that comes in parts (RFC 8058 §3.2), and no other form does', async () => {
    await open();
    await roundAt('2026-09-05T09:30');
    await request(stage.app).post(linkOf(0)).field('until', 'term').expect(400);
    await request(stage.app).post(linkOf(0)).field('List-Unsubscribe', 'One-Click').expect(200);
    expect((await person()).paused).toBe(true);
  });

  test('is over with the course: the page says so, and changes nothing', async () => {
    await open();
    await roundAt('2026-09-05T09:30');
    stage.clock.set(at('2026-12-19T00:00'));
    const page = await request(stage.app).get(linkOf(0)).expect(200);
    expect(page.text).toContain('The course is over.');
    expect(page.text).not.toContain('<form');
    await pause({ until: 'term' }).expect(409);
  });

  test('[R9] withdraws what is queued already', async () => {
    const quiet = { quietHours: { from: '09:00', to: '10:00', days: [] }, budget: null };
    await open({ course: { people: ONE, settings: quiet }, ...repeated });
    await roundAt('2026-09-05T09:30');
    const [nudge] = await unguarded(stage.orm).find(NudgeRow, { rule: 'away' });
    const path = `/p/${pauseToken('secret', nudge!.id)}`;
    await request(stage.app).post(path).type('form').send({ until: 'term' }).expect(200);
    stage.clock.set(at('2026-09-05T10:00'));
    await stage.dispatcher.drain();
    const states = await unguarded(stage.orm).find(NudgeRow, {}, { orderBy: { id: 'asc' } });
    expect(states.map((n) => [n.rule, n.state, n.reason ?? null])).toEqual([
      ['away', 'withdrawn', 'paused'],
      ['urgent', 'sent', null],
    ]);
  });

  test.each([[{ until: 'date' }], [{ until: 'date', date: '2026-09-01' }], [{ until: 'date', date: 'soon' }], [{}]])(
    '%j is refused and named',
    async (form) => {
      await open();
      await roundAt('2026-09-05T09:30');
      const res = await pause(form).expect(400);
      expect(res.body.problems[0].path).toBe('date');
      expect((await person()).paused).toBe(false);
    },
  );
});

test('a second nudge of a spell answers the first (RFC 5322 §3.6.4), a new spell begins anew', async () => {
  const step = { deliver: 'send', to: ['student'], wording: 'gentle' };
  await open({ rules: [ruleOf({ steps: [step, { ...step, after: { days: 2 } }] })] });
  for (const day of ['05', '06', '07']) await roundAt(`2026-09-${day}T09:30`);
  expect(smtp.mails).toHaveLength(2);
  const [first, second] = smtp.mails.map((m) => m.mail);
  expect(second!.inReplyTo).toBe(first!.messageId);
  expect([second!.references].flat()).toEqual([first!.messageId]);
  stage.clock.set(at('2026-09-08T08:30'));
  await stage.tell([visit('p1', '2026-09-08T08:00')]);
  for (let day = 9; day <= 13; day++) await roundAt(`2026-09-${String(day).padStart(2, '0')}T09:30`);
  expect(smtp.mails).toHaveLength(3);
  expect(smtp.mails[2]!.mail.inReplyTo).toBeUndefined();
});
