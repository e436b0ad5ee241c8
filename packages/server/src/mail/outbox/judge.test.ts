/** What becomes of a reserved message, and how it is made. Nothing is written. */
import { asTx } from '../../testing/asTx.ts';
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { DAY, MINUTE } from '@zest-bell/core/time';
import { wordingKeyOf } from '@zest-bell/core/nudges';
import { CourseRow } from '../../course/entity.ts';
import { MailingRow } from '../byHand/entity.ts';
import type { MessageRow, NudgeRow } from '../nudges/entity.ts';
import { inTransaction } from '../../platform/database/transaction.ts';
import { RuleRow } from '../../rules/entity.ts';
import { insertRule } from '../../rules/repository.ts';
import { AttemptRow } from '../nudges/attempt.ts';
import { insertNudge } from '../../testing/queued.ts';
import {
  at,
  COURSE,
  openStage,
  ruleOf,
  SENDER,
  visit,
  type StageSetting,
  type TestStage,
} from '../../testing/stage.ts';
import { TrialCourseRow, TrialDrawRow, TrialRow } from '../../wording/trials/entity.ts';
import { WordingRow } from '../../wording/entity.ts';
import { judge, type MessageVerdict, type JudgedMessage } from './judge.ts';
import { reserve } from './queue.ts';
import { unguarded } from '../../testing/unguarded.ts';
import { insertCourse } from '../../testing/insertCourse.ts';

const NOW = at('2026-09-10T12:00');
let stage: TestStage;
afterEach(() => stage.close());
const em = () => unguarded(stage.orm);

async function open(setting: Partial<StageSetting> = {}): Promise<void> {
  stage = await openStage({ now: '2026-09-10T12:00', ...setting });
  // All are away since Sep 1: a spell from Sep 6, 10:00.
  await stage.tell(['p1', 'p2', 'p3'].map((p) => visit(p, '2026-09-01T10:00')));
}
beforeEach(() => open());
const reopen = async (setting: Partial<StageSetting>) => {
  await stage.close();
  await open(setting);
};

/** What becomes of all that is due, the longest due first. */
async function judged({ limit = 99, ahead = [] as readonly JudgedMessage[] } = {}): Promise<JudgedMessage[]> {
  const reserved = await inTransaction(stage.orm, (inside) =>
    reserve(asTx(inside), {
      worker: 'me',
      now: stage.clock.now(),
      limit,
      without: new Set(),
      stale: new Map(),
      waiting: [],
      room: () => Infinity,
    }),
  );
  return judge(stage.services, reserved, ahead);
}
const fates = async () => (await judged()).map((j) => j.fate);
const kinds = async () => (await fates()).map((f) => f.kind);
const mailIn = (fate: MessageVerdict | undefined) => {
  if (fate?.kind !== 'leaves') throw new Error(JSON.stringify(fate));
  return fate.composed.mail;
};
const subjects = async () => (await fates()).map((fate) => mailIn(fate).subject);
const nudge = (more: Partial<NudgeRow> = {}, messages?: readonly Partial<MessageRow>[]) =>
  insertNudge(asTx(em()), more, messages);
const wording = (more: Partial<WordingRow>) => em().nativeUpdate(WordingRow, { key: 'gentle' }, more);
const variants = ['two', 'three'].map((subject) => ({ subject, text: `${subject} {{ student.first_name }}` }));

test('nothing reserved is nothing judged', async () => {
  expect(await judge(stage.services, [])).toEqual([]);
});

describe('a message of a rule', () => {
  test('is made from the facts of this moment', async () => {
    await nudge();
    const [fate] = await fates();
    expect(mailIn(fate)).toMatchObject({
      from: { name: SENDER.name, address: SENDER.address },
      replyTo: SENDER.replyTo,
      to: { name: 'P1 Lind', address: 'p1@saltmarsh.example' },
      subject: 'A quiet week in Coastal Navigation',
      text: expect.stringContaining('it has been 9 days'),
      date: new Date(NOW),
      inReplyTo: null,
      pauseLink: null,
      envelopeFrom: null,
    });
    expect(fate).toMatchObject({ variant: 0, draw: null, composed: { evidence: [{ value: 9, verdict: true }] } });
  });

  test('that is no longer true, or whose rule is gone, is withdrawn', async () => {
    await nudge({ student: 'p2' });
    await nudge({ rule: 'gone' });
    await nudge();
    await stage.tell([visit('p2', '2026-09-09T10:00')]);
    expect(await fates()).toMatchObject([
      { kind: 'withdrawn', reason: 'noLongerTrue' },
      { kind: 'withdrawn', reason: 'ruleOff' },
      { kind: 'leaves' },
    ]);
  });

  test('is judged by its own rule, in its own course', async () => {
    const course = await inTransaction(stage.orm, (inside) =>
      insertCourse(inside, { ...COURSE, title: 'Tides' }, { sender: SENDER, tokenHash: 'two' }),
    );
    const twin = em();
    const { course: opened } = await stage.services.live.get(twin, course);
    twin.create(WordingRow, {
      course,
      key: 'gentle',
      name: 'Gentle',
      purpose: 'support',
      subject: 'In {{ course.title }}',
      body: 'Come by.',
    } as WordingRow);
    await insertRule(asTx(twin), { id: course, course: opened }, ruleOf(), 1, 0);
    await insertRule(asTx(twin), { id: 1, course: opened }, ruleOf({ id: 'other', name: 'Other' }), 1, 0);
    await twin.flush();
    await em().nativeUpdate(RuleRow, { course: 1, key: 'away' }, { status: 'paused' });
    await nudge({ course });
    await nudge();
    await nudge({ rule: 'other' });
    // In the other course nobody has come since its first day.
    const all = await fates();
    expect(mailIn(all[0]).subject).toBe('In Tides');
    expect(all[1]).toMatchObject({ kind: 'withdrawn' });
    expect(mailIn(all[2]).subject).toBe('A quiet week in Coastal Navigation');
  });

  test('of a course that cannot be read waits a minute, and of others leaves', async () => {
    await nudge();
    await nudge({ course: 77 });
    expect((await judged()).map((j) => [j.message.course, j.fate])).toMatchObject([
      [1, { kind: 'leaves' }],
      [77, { kind: 'waits', until: NOW + MINUTE }],
    ]);
  });

  test('whose text or rule cannot be read says so and stops no other', async () => {
    const inside = em();
    await inside.insert(WordingRow, {
      course: 1,
      key: 'broken',
      name: 'Broken',
      purpose: 'support',
      subject: 'Hi',
      body: '{% if %}',
    });
    await nudge({ wording: 'broken' });
    await nudge({ wording: 'nowhere' });
    await nudge();
    const all = await fates();
    expect(all.map((f) => f.kind)).toEqual(['broken', 'broken', 'leaves']);
    expect(all[0]).toMatchObject({ trouble: expect.stringMatching(/^The text of this message has a problem\. .*\.$/) });
    await em().nativeUpdate(RuleRow, { key: 'away' }, { document: { nonsense: true } });
    await nudge();
    expect(await fates()).toMatchObject([{ kind: 'broken', trouble: expect.stringContaining('cannot be read') }]);
  });

  test('that cannot be made for a reason that nobody foresaw says so, and stops no other', async () => {
    await nudge();
    await nudge({ student: 'p2' });
    const pauseLink = (id: number) => {
      if (id === 1) throw new Error('never seen before');
      return null;
    };
    const all = await judge(
      { ...stage.services, pauseLink },
      (await judged()).map((j) => j.message),
    );
    expect(all.map((j) => j.fate)).toMatchObject([
      { kind: 'broken', trouble: expect.stringContaining('could not be written') },
      { kind: 'leaves' },
    ]);
  });

  test('about somebody who left the course meanwhile says so, or is withdrawn, and stops no other', async () => {
    await nudge({ student: 'nobody' });
    await nudge();
    expect((await kinds())[1]).toBe('leaves');
  });

  test('in quiet hours waits for their end, and after the course it is withdrawn', async () => {
    const settings = { quietHours: { from: '11:00', to: '14:00' }, budget: null };
    await reopen({ course: { settings } });
    await nudge();
    expect(await fates()).toEqual([{ kind: 'waits', until: at('2026-09-10T14:00') }]);
    await reopen({ now: '2026-12-19T00:00' });
    await nudge();
    expect(await fates()).toMatchObject([{ kind: 'withdrawn', reason: 'courseOver' }]);
  });

  test('to an address outside the institution waits for a yes, which its rule keeps', async () => {
    const to = [{ kind: 'contact' as const, reader: 'contact:parent', address: 'Aunt@Home.example' }];
    await nudge({}, to);
    expect(await fates()).toEqual([{ kind: 'held', heldFor: 'outside' }]);
    await em().nativeUpdate(RuleRow, { key: 'away' }, { outside: ['aunt@home.example'] });
    await nudge({}, to);
    expect(await kinds()).toEqual(['leaves']);
  });

  test('answers the last message of its spell to the same address', async () => {
    const first = await nudge({ state: 'sent' });
    await em().insert(AttemptRow, {
      course: 1,
      message: 1,
      nudge: first.nudge,
      at: NOW,
      outcome: 'sent',
      response: '',
      messageId: '<first>',
      recipientName: '',
      address: 'p1@saltmarsh.example',
      fromAddress: '',
      replyTo: '',
      subject: '',
      body: '',
      html: '',
      files: [],
      evidence: [],
    });
    await nudge({ step: 0 }, [{}, { kind: 'address', address: 'coach@saltmarsh.example' }]);
    expect((await fates()).map((f) => mailIn(f).inReplyTo)).toEqual(['<first>', null]);
  });
});

describe('which text', () => {
  test('was chosen for a message, or for another of the same nudge, is kept', async () => {
    await wording({ subject: 'one', body: 'one', variants });
    await nudge({}, [{ variant: 2 }]);
    await nudge({ student: 'p2' }, [
      { state: 'sent', variant: 1 },
      { kind: 'address', address: 'x@saltmarsh.example' },
    ]);
    expect((await fates()).map((f) => f.kind === 'leaves' && f.variant)).toEqual([2, 1]);
  });

  test('a student has in turn, and all messages of one nudge have the same', async () => {
    await wording({ subject: 'one', body: 'one', variants });
    const both = [{}, { kind: 'address' as const, address: 'coach@saltmarsh.example' }];
    await nudge({}, both);
    await nudge({}, both);
    const got = await subjects();
    expect(got[1]).toBe(`About P1 Lind: ${got[0]}`);
    expect(got[3]).toBe(`About P1 Lind: ${got[2]}`);
    expect(got[2]).not.toBe(got[0]);
  });

  test('the student or another reader of the nudge has is known of those judged ahead', async () => {
    await wording({ subject: 'one', body: 'one', variants });
    await nudge();
    await nudge({}, [{}, { kind: 'address', address: 'coach@saltmarsh.example' }]);
    const ahead: JudgedMessage[] = [];
    for (let i = 0; i < 3; i++) ahead.push(...(await judged({ limit: 1, ahead })));
    const [first, second, beside] = ahead.map((j) => mailIn(j.fate).subject);
    expect(second).not.toBe(first);
    expect(beside).toBe(`About P1 Lind: ${second}`);
  });

  test('a third party reads is its own, where there is one', async () => {
    await wording({
      copies: [
        { to: 'contact:mentor', subject: 'For the mentor', text: 'About {{ student.first_name }}' },
        { to: 'anyone', subject: 'For anyone', text: 'Dear {{ reader.name }}, please look after them.' },
      ],
    });
    await nudge({}, [
      { reader: null },
      { kind: 'contact', reader: 'contact:mentor', address: 'mentor@saltmarsh.example', name: 'M' },
      { kind: 'address', reader: 'address:desk@saltmarsh.example', address: 'desk@saltmarsh.example', name: '' },
      { kind: 'address', reader: null, address: 'desk@saltmarsh.example', name: 'Front desk' },
    ]);
    const mails = (await fates()).map(mailIn);
    expect(mails.map((m) => m.subject)).toEqual([
      'A quiet week in Coastal Navigation',
      'For the mentor',
      'For anyone',
      'For anyone',
    ]);
    expect(mails[2]!.text).toContain('desk@saltmarsh.example');
    expect(mails[3]!.text).toContain('Front desk');
  });

  test('the instructor wrote for this one alone takes its wording’s place', async () => {
    await wording({ variants });
    await nudge({ edited: { subject: 'For you', text: 'Come by, {{ student.first_name }}.' } });
    await nudge({ student: 'p2' });
    const all = (await fates()).map(mailIn);
    expect(all[0]).toMatchObject({ subject: 'For you', text: expect.stringContaining('Come by, P1.') });
    expect(all[1]!.subject).not.toBe('For you');
  });
});

describe('a fair trial', () => {
  async function start(): Promise<void> {
    await wording({ subject: 'one', body: 'one', variants });
    const inside = em();
    inside.create(TrialRow, {
      seed: 'a seed',
      texts: [{ subject: 'one', text: 'one' }, ...variants],
      points: 20,
      needed: 50,
      startedAt: 0,
      startedBy: 'ada',
      endedAt: null,
    });
    await inside.flush();
    await em().insert(TrialCourseRow, { trial: 1, course: 1, wording: 'gentle' });
  }

  test('draws a text for each student who has none, and keeps the one that was drawn', async () => {
    await start();
    await em().insert(TrialDrawRow, { trial: 1, course: 1, place: 4, student: 'p1', text: 2, at: 0 });
    await nudge();
    await nudge({ student: 'p2' });
    await nudge({ student: 'p3' });
    const all = await fates();
    expect(all[0]).toMatchObject({ variant: 2, draw: null });
    const draws = all.map((f) => (f.kind === 'leaves' ? f.draw : null));
    expect(draws.slice(1).map((d) => d?.place)).toEqual([5, 6]);
    expect(all.slice(1).map((f) => f.kind === 'leaves' && f.variant)).toEqual(draws.slice(1).map((d) => d?.text));
    expect(all.map((f) => mailIn(f).subject)).toEqual(
      all.map((f) => ['one', 'two', 'three'][f.kind === 'leaves' ? f.variant! : 9]),
    );
  });

  test('draws once for a student, and no place twice, where draws that were made ahead are not written yet', async () => {
    await start();
    for (const student of ['p1', 'p2', 'p1']) await nudge({ student });
    const ahead: JudgedMessage[] = [];
    for (let i = 0; i < 3; i++) ahead.push(...(await judged({ limit: 1, ahead })));
    const [first, second, again] = ahead.map((j) => (j.fate.kind === 'leaves' ? j.fate.draw : null));
    expect([first?.place, second?.place]).toEqual([0, 1]);
    expect(again).toEqual(first);
    // Draws of a trial that has ended do not belong to the current one.
    const others = ahead.map((j) => ({
      ...j,
      fate: { ...j.fate, draw: { trial: 9, place: 7, text: 1 } } as MessageVerdict,
    }));
    await nudge();
    expect((await judged({ ahead: others }))[0]!.fate).toMatchObject({ draw: { trial: 1, place: 0 } });
  });

  test('draws nothing for a message that was made before, for third parties, or once it has ended', async () => {
    await start();
    await nudge({}, [{ variant: 1 }]);
    await nudge({ student: 'p2' }, [{ kind: 'address', address: 'coach@saltmarsh.example' }]);
    expect(await fates()).toMatchObject([{ variant: 1, draw: null }, { draw: null }]);
    await em().nativeUpdate(TrialRow, {}, { endedAt: NOW });
    await nudge({ student: 'p3' });
    expect(await fates()).toMatchObject([{ draw: null }]);
  });

  test('draws nothing where no act of the student would answer', async () => {
    await reopen({ rules: [ruleOf({ when: { measure: 'score', item: 'q1', is: '<', value: 60 } })] });
    await stage.tell([], [{ id: 'g1', person: 'p1', item: 'q1', points: 9, at: '2026-09-05T10:00:00-04:00' }]);
    await start();
    await nudge();
    expect(await fates()).toMatchObject([{ kind: 'leaves', draw: null }]);
  });
});

describe('how it is made', () => {
  test('students alone have the link with which they pause messages, below the words', async () => {
    await reopen({ publicUrl: 'https://bell.saltmarsh.example' });
    const { nudge: id } = await nudge({}, [{}, { kind: 'address', address: 'coach@saltmarsh.example' }]);
    const [own, copy] = (await fates()).map(mailIn);
    const link = stage.services.pauseLink(id)!;
    expect(own).toMatchObject({ pauseLink: link, text: expect.stringMatching(/\n\n-- \nAnswer with one press/) });
    expect(own!.text.endsWith(link)).toBe(true);
    expect(own!.html).toContain(`<a href="${link}"`);
    expect(copy!.pauseLink).toBeNull();
    expect(copy!.text).not.toContain('Answer with one press');
  });

  test('answers to a course that takes them here carry a tag, of the nudge for the student, of the message for others', async () => {
    await em().nativeUpdate(CourseRow, { id: 1 }, { sender: { ...SENDER, answers: 'server' } });
    const made = await nudge({}, [{}, { kind: 'address', address: 'coach@saltmarsh.example' }]);
    const [own, copy] = (await fates()).map(mailIn);
    const tagged = stage.services.replyAddress({ nudge: made.nudge, message: null });
    expect(own).toMatchObject({ replyTo: tagged, envelopeFrom: tagged });
    const other = stage.services.replyAddress({ nudge: made.nudge, message: made.messages[1]! });
    expect(copy).toMatchObject({ replyTo: other, envelopeFrom: other });
    expect(other).not.toBe(tagged);
  });
});

describe('a message by hand', () => {
  const text = { subject: 'Your boat', text: '{{ student.first_name }}: {{ column["Boat"] | default: "a boat" }}.' };
  const row = (boat: string, guest: object | null = null) => ({ values: { Boat: boat }, guest });
  async function mailing(more: Partial<MailingRow> = {}): Promise<number> {
    const inside = em();
    const made = inside.create(MailingRow, {
      course: 1,
      at: NOW,
      by: 'Ada',
      outside: [],
      sheet: null,
      wording: { id: 'by-hand', name: 'Boats', purpose: 'support', ...text },
      rows: { p1: row('Tern'), p2: row('Gull') },
      ...more,
    } as MailingRow);
    await inside.flush();
    return made.id;
  }
  const byHand = (id: number, more: Partial<NudgeRow> = {}, messages?: readonly Partial<MessageRow>[]) =>
    nudge({ rule: null, wording: wordingKeyOf(id), ...more }, messages);

  test('is made from its own text with the values of its row, and of no other mailing’s', async () => {
    const [first, second] = [await mailing(), await mailing({ rows: { p1: row('Skua') } as MailingRow['rows'] })];
    await byHand(first);
    await byHand(first, { student: 'p2' });
    await byHand(second);
    // In the course, and in no row of this mailing.
    await byHand(second, { student: 'p2' });
    await byHand(first, { student: 'p2', edited: { subject: 'Only you', text: 'Yours: {{ column["Boat"] }}' } });
    const all = await fates();
    expect(all.map((f) => mailIn(f).text)).toEqual([
      'P1: Tern.',
      'P2: Gull.',
      'P1: Skua.',
      'P2: a boat.',
      'Yours: Gull',
    ]);
    expect(mailIn(all[4]).subject).toBe('Only you');
    expect(all[0]).toMatchObject({ variant: 0, draw: null, composed: { evidence: [] } });
    expect(mailIn(all[0]).inReplyTo).toBeNull();
  });

  test('reaches a guest, who is no student of the course', async () => {
    const guest = { firstName: 'Berit', lastName: 'Lund', email: 'berit@saltmarsh.example' };
    const id = await mailing({ rows: { [guest.email]: row('Tern', guest) } as MailingRow['rows'] });
    await byHand(id, { student: guest.email });
    expect((await fates()).map((f) => mailIn(f).text)).toEqual(['Berit: Tern.']);
  });

  test('whose mailing is gone, or whose text cannot be made, says so', async () => {
    await byHand(99);
    const id = await mailing({ wording: { id: 'x', name: 'x', purpose: 'support', subject: 'x', text: '{% if %}' } });
    await byHand(id);
    const percent = { ...text, text: '{{ column["Boat"] | url_decode }}' };
    const other = await mailing({
      wording: { id: 'x', name: 'x', purpose: 'support', ...percent },
      rows: { p1: row('100%'), p2: row('Gull') } as MailingRow['rows'],
    });
    await byHand(other);
    await byHand(other, { student: 'p2' });
    expect(await fates()).toMatchObject([
      { kind: 'broken', trouble: expect.stringContaining('no longer there') },
      { kind: 'broken', trouble: expect.stringContaining('has a problem') },
      { kind: 'broken', trouble: expect.stringContaining('has a problem') },
      { kind: 'leaves' },
    ]);
  });

  test('does not leave to one who is gone, paused or without an address', async () => {
    const people = COURSE.people.map((p) => ({
      ...p,
      ...(p.id === 'p1' ? { active: false } : p.id === 'p2' ? { paused: true } : p.id === 'p3' ? { email: null } : {}),
    }));
    await reopen({ course: { people } });
    const id = await mailing();
    for (const student of ['p1', 'p2', 'p3', 'nobody']) await byHand(id, { student });
    await byHand(id, { student: 'p3' }, [{ kind: 'address', address: 'coach@saltmarsh.example' }]);
    expect(await fates()).toMatchObject([
      { kind: 'withdrawn', reason: 'inactive' },
      { kind: 'withdrawn', reason: 'paused' },
      { kind: 'withdrawn', reason: 'noAddress' },
      { kind: 'withdrawn', reason: 'inactive' },
      { kind: 'leaves' },
    ]);
  });

  test('waits in quiet hours, leaves the moment they end, and is withdrawn from the end of the course on', async () => {
    await reopen({ course: { settings: { quietHours: { from: '11:00', to: '14:00' }, budget: null } } });
    await byHand(await mailing());
    expect(await fates()).toEqual([{ kind: 'waits', until: at('2026-09-10T14:00') }]);
    stage.clock.set(at('2026-09-10T14:00'));
    await byHand(1);
    expect(await kinds()).toEqual(['leaves']);
    const { calendar } = (await stage.services.live.get(em(), 1)).course;
    stage.clock.set(calendar.end);
    await byHand(1);
    expect(await fates()).toEqual([{ kind: 'withdrawn', reason: 'courseOver' }]);
    stage.clock.set(calendar.end - DAY / 2);
    await byHand(1);
    expect((await kinds())[0]).not.toBe('withdrawn');
  });

  test('to an address outside the institution waits for a yes, which its mailing keeps', async () => {
    const to = [
      {},
      { kind: 'address' as const, address: 'Coach@Home.example' },
      { kind: 'address' as const, address: 'coach@saltmarsh.example' },
    ];
    await byHand(await mailing(), {}, to);
    expect(await fates()).toMatchObject([{ kind: 'leaves' }, { kind: 'held', heldFor: 'outside' }, { kind: 'leaves' }]);
    await em().nativeUpdate(MailingRow, { id: 1 }, { outside: ['coach@home.example'] });
    await byHand(1, {}, to);
    expect(await kinds()).toEqual(['leaves', 'leaves', 'leaves']);
  });
});
