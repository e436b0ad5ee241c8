// Runs on PostgreSQL too.
/** One message, one rule or one answer that fails is its own trouble and stops nothing else. */
import { asTx } from '../../testing/asTx.ts';
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import type { RuleCard, StandingAnswer } from '@zest-bell/core/exchange';
import { ItemRow, PersonRow } from '../../course/entity.ts';
import { MessageRow, NudgeRow } from '../nudges/entity.ts';
import { move } from '../nudges/transitions.ts';
import { inTransaction } from '../../platform/database/transaction.ts';
import { TroubleRow } from '../../rounds/deciding/entity.ts';
import { runDueRounds } from '../../rounds/deciding/scheduler.ts';
import { RuleRow } from '../../rules/entity.ts';
import { AttemptRow } from '../nudges/attempt.ts';
import { openSmtp, type TestSmtp } from '../../testing/smtp.ts';
import { at, COURSE, openStage, ruleOf, TOKEN, type StageSetting, type TestStage } from '../../testing/stage.ts';
import { WordingRow } from '../../wording/entity.ts';
import { MailTroubleRow, WorkerRow } from './entity.ts';
import { unguarded, freely } from '../../testing/unguarded.ts';
import { insertCourse } from '../../testing/insertCourse.ts';

let stage: TestStage;
let smtp: TestSmtp;
beforeEach(async () => {
  smtp = await openSmtp();
});
afterEach(async () => {
  await stage.close();
  await smtp.close();
});
const open = async (setting: Partial<StageSetting> = {}) => {
  stage = await openStage({ now: '2026-09-04T12:00', smtp: smtp.url, ...setting });
};
const roundAt = async (when: string) => {
  stage.clock.set(at(when));
  const rounds = await runDueRounds(stage.services);
  await stage.dispatcher.drain();
  return rounds;
};
const states = async () => {
  const rows = await unguarded(stage.orm).find(MessageRow, {}, { orderBy: { id: 'asc' } });
  return rows.map((m) => m.state);
};
const standing = async () => {
  const ada = await stage.signIn();
  return (await ada.get('/api/v1/courses/1/standing').expect(200)).body as StandingAnswer;
};

describe('a message that cannot be made', () => {
  test('fails alone, says what to do, and is sent again once the text is mended', async () => {
    await open();
    const em = unguarded(stage.orm);
    await em.nativeUpdate(PersonRow, { key: 'p2' }, { firstName: '100%' });
    await em.nativeUpdate(WordingRow, { key: 'gentle' }, { body: 'Come by, {{ student.first_name | url_decode }}.' });
    await roundAt('2026-09-05T09:30');
    expect(await states()).toEqual(['sent', 'failed', 'sent']);
    const failed = await em.findOneOrFail(MessageRow, { state: 'failed' });
    expect(failed.trouble).toMatch(
      /^The text of this message has a problem\. Line 1: .*Fix the text, then send it again\.$/,
    );
    expect((await standing()).failed).toBe(1);
    await em.nativeUpdate(WordingRow, { key: 'gentle' }, { body: 'Come by, {{ student.first_name }}.' });
    const ada = await stage.signIn();
    const again = await ada
      .post(`/api/v1/courses/1/log/messages/${failed.id}/settle`)
      .send({ as: 'sendAgain' })
      .expect(200);
    expect(again.body).toMatchObject({ state: 'sent', to: [{ trouble: null }] });
  });

  test('for a rule that cannot be read fails, and other rules send', async () => {
    await open({ rules: [ruleOf(), ruleOf({ id: 'other', name: 'Other' })] });
    stage.clock.set(at('2026-09-05T09:30'));
    await runDueRounds(stage.services);
    await unguarded(stage.orm).nativeUpdate(RuleRow, { key: 'away' }, { document: { nothing: true } });
    await stage.dispatcher.drain();
    expect((await states()).sort()).toEqual([...Array<string>(3).fill('failed'), ...Array<string>(3).fill('sent')]);
  });
});

describe('a rule that cannot be decided', () => {
  const rules = [
    ruleOf({ id: 'first', name: 'First', when: { measure: 'submitted', item: 'q1', is: 'equals', value: false } }),
    ruleOf(),
  ];

  test('for an item that is gone is a trouble of its own, and the other rules of the round go on', async () => {
    await open({ rules });
    await unguarded(stage.orm).nativeDelete(ItemRow, { key: 'q1' });
    await stage.orm.em.getKnex()('course').increment('version', 1);
    const rounds = await roundAt('2026-09-05T09:30');
    expect(rounds.map((r) => [r.rule, r.heard])).toEqual([['away', 3]]);
    const { troubles } = await standing();
    expect(troubles).toMatchObject([
      {
        rule: 'first',
        name: 'First',
        message: 'There is no item “q1” in this course. Open the rule and choose something else.',
      },
    ]);
    const ada = await stage.signIn();
    const cards = (await ada.get('/api/v1/courses/1/rules').expect(200)).body as RuleCard[];
    expect(cards[0]!.sentence).toContain('an item that is gone');
  });

  test('and recovers within moments is decided, though another rule rang at the same instant', async () => {
    await open({ rules });
    const em = unguarded(stage.orm);
    const row = await stage.rule('first');
    await em.nativeUpdate(RuleRow, { key: 'first' }, { document: { ...row.document, when: { measure: 'none' } } });
    await roundAt('2026-09-05T09:30');
    expect(await em.count(NudgeRow, { rule: 'first' })).toBe(0);
    await em.nativeUpdate(RuleRow, { key: 'first' }, { document: row.document });
    await em.nativeUpdate(TroubleRow, {}, { nextTryAt: at('2026-09-05T09:31') });
    await roundAt('2026-09-05T09:31');
    expect(await em.count(NudgeRow, { rule: 'first' })).toBe(3);
    expect(await em.count(TroubleRow)).toBe(0);
  });

  test('is not rung either: its trouble is the answer', async () => {
    await open({ rules });
    const ada = await stage.signIn();
    await unguarded(stage.orm).nativeDelete(ItemRow, { key: 'q1' });
    await stage.orm.em.getKnex()('course').increment('version', 1);
    const rung = await ada.post('/api/v1/courses/1/rules/first/ring').send({ confirmed: true });
    expect([rung.status, rung.body.code]).toEqual([409, 'ruleTrouble']);
  });
});

test('an answer about a message that somebody settled in the meantime loses no other answer', async () => {
  await open();
  stage.clock.set(at('2026-09-05T09:30'));
  await runDueRounds(stage.services);
  const { mail } = stage.services;
  const handOver = mail.handOver.bind(mail);
  let first = true;
  mail.handOver = async (one, mayBegin) => {
    const outcome = await handOver(one, mayBegin);
    if (!first) return outcome;
    first = false;
    // Another process took this one for dead, and the instructor dismissed what it left.
    await freely(stage.orm.em.fork()).nativeUpdate(
      MessageRow,
      { address: one.to.address },
      { state: 'failed', claimedBy: null },
    );
    return { kind: 'unknown', response: 'no answer' };
  };
  await stage.dispatcher.drain();
  expect((await states()).sort()).toEqual(['failed', 'sent', 'sent']);
  expect(await unguarded(stage.orm).count(AttemptRow, { outcome: 'handing' })).toBe(0);
});

describe('[R11] a move', () => {
  test('leaves what has moved on, takes the nudge along with its lead message, and names what it moved', async () => {
    await open({ rules: [ruleOf({ steps: [{ deliver: 'hold', to: ['instructor', 'student'], wording: 'gentle' }] })] });
    await roundAt('2026-09-05T09:30');
    const em = unguarded(stage.orm);
    const rows = await em.find(MessageRow, { nudge: 1 }, { orderBy: { id: 'asc' } });
    expect(rows.map((m) => [m.kind, m.lead, m.heldFor])).toEqual([
      ['instructor', false, 'step'],
      ['student', true, 'step'],
    ]);
    const ids = rows.map((m) => m.id);
    const moved = (to: 'queued' | 'sent' | 'dismissed', which: number[]) =>
      inTransaction(stage.orm, (tx) => move(asTx(tx), which, { to, now: stage.clock.now() }));
    expect(await moved('sent', ids)).toEqual([]);
    expect(await moved('dismissed', [ids[0]!])).toEqual([ids[0]]);
    const state = async () => (await unguarded(stage.orm).findOneOrFail(NudgeRow, { id: 1 })).state;
    expect(await state()).toBe('held');
    expect(await moved('queued', ids)).toEqual([ids[1]]);
    expect(await state()).toBe('queued');
  });
});

describe('[R9] a yes to messages that wait', () => {
  test('sends exactly those that it names', async () => {
    await open({
      course: {
        people: COURSE.people.map((p) => ({
          ...p,
          contacts: [{ kind: 'mentor', name: 'M', email: 'm@home.example' }],
        })),
      },
      rules: [ruleOf({ steps: [{ deliver: 'hold', to: ['student', 'contact:mentor'], wording: 'gentle' }] })],
    });
    await roundAt('2026-09-05T09:30');
    const ada = await stage.signIn();
    const detail = await ada.get('/api/v1/courses/1/log/1').expect(200);
    const [own, theirs] = detail.body.to as { id: number }[];
    await ada
      .post('/api/v1/courses/1/log/1/decide')
      .send({ as: 'send', messages: [theirs!.id] })
      .expect(200);
    expect(smtp.mails.map((m) => m.to[0])).toEqual(['m@home.example']);
    expect((await stage.rule()).outside).toEqual(['m@home.example']);
    await ada
      .post('/api/v1/courses/1/log/2/decide')
      .send({ as: 'send', messages: [own!.id] })
      .expect(404);
    await ada
      .post('/api/v1/courses/1/log/1/decide')
      .send({ as: 'send', messages: [own!.id, theirs!.id] })
      .expect(409);
    await ada
      .post('/api/v1/courses/1/log/1/decide')
      .send({ as: 'send', messages: [own!.id] })
      .expect(200);
    expect(smtp.mails.map((m) => m.to[0])).toEqual(['m@home.example', 'p1@saltmarsh.example']);
  });
});

describe('a trouble of the mail server', () => {
  test('fails no message: all wait, one sentence says why, and it leaves when mail does', async () => {
    const gone = smtp.url;
    await smtp.close();
    await open({ smtp: gone });
    await roundAt('2026-09-05T09:30');
    expect(await states()).toEqual(['queued', 'queued', 'queued']);
    expect((await unguarded(stage.orm).find(MessageRow, {})).map((m) => m.attempts)).toEqual([0, 0, 0]);
    expect(await unguarded(stage.orm).count(AttemptRow)).toBe(0);
    expect((await standing()).mailTrouble).toMatchObject({ trouble: 'unreachable', since: at('2026-09-05T09:30') });
    for (const day of ['06', '07', '08', '09']) await roundAt(`2026-09-${day}T12:00`);
    expect(new Set(await states())).toEqual(new Set(['queued']));
    smtp = await openSmtp(Number(new URL(gone).port));
    const ada = await stage.signIn();
    const after = (await ada.post('/api/v1/courses/1/mail/retry').expect(200)).body as StandingAnswer;
    expect(after.mailTrouble).toBeNull();
    expect(await states()).toEqual(['sent', 'sent', 'sent']);
  });

  test('such as a refused password keeps mail waiting, tried again ever later by a few messages', async () => {
    await open();
    smtp.answer = { code: 535, at: 'mailFrom' };
    await roundAt('2026-09-05T09:30');
    expect(new Set(await states())).toEqual(new Set(['queued']));
    expect((await standing()).mailTrouble).toMatchObject({ trouble: 'password', nextTryAt: at('2026-09-05T09:31') });
    stage.clock.set(at('2026-09-05T09:31'));
    await stage.dispatcher.drain();
    expect((await standing()).mailTrouble).toMatchObject({ nextTryAt: at('2026-09-05T09:33') });
    expect(await stage.dispatcher.nextDue()).toBe(at('2026-09-05T09:33'));
    smtp.answer = 'accept';
    stage.clock.set(at('2026-09-05T09:33'));
    await stage.dispatcher.drain();
    expect(await states()).toEqual(['sent', 'sent', 'sent']);
    expect(await unguarded(stage.orm).count(MailTroubleRow)).toBe(0);
  });

  test('with one course’s sender holds up that course alone', async () => {
    await open();
    await unguarded(stage.orm).transactional(async (em) => {
      const id = await insertCourse(
        asTx(em),
        { ...COURSE, code: 'MET 115' },
        {
          sender: {
            name: 'B',
            address: 'refused@saltmarsh.example',
            replyTo: 'b@saltmarsh.example',
            signature: '',
            officeHours: '',
          },
          tokenHash: `${TOKEN} 2`,
          guards: { askAbove: 1, staleHours: null },
        },
      );
      await em.insert(WordingRow, {
        course: id,
        key: 'gentle',
        name: 'G',
        purpose: 'support',
        subject: 'S',
        body: 'B',
        variants: [],
        copies: [],
        files: [],
        letter: null,
        version: 1,
      });
      const { insertRule } = await import('../../rules/repository.ts');
      const { makeCourse } = await import('@zest-bell/core/course');
      await insertRule(asTx(em), { id, course: makeCourse(COURSE) }, ruleOf(), null, stage.clock.now());
    });
    smtp.refusedSender = 'refused@saltmarsh.example';
    await roundAt('2026-09-05T09:30');
    expect(smtp.mails).toHaveLength(3);
    const waiting = await unguarded(stage.orm).find(MessageRow, { state: 'queued' });
    expect(waiting.map((m) => m.course)).toEqual([2, 2, 2]);
    expect((await standing()).mailTrouble).toBeNull();
  });

  test('that answers garbage leaves nothing on its way for good, and other mail goes out afterwards', async () => {
    await open();
    for (const garbage of ['greeting', 'rcpt', 'data'] as const) {
      smtp.answer = { garbage };
      await roundAt('2026-09-05T09:30');
      expect((await states()).filter((s) => s === 'handing')).toEqual([]);
      expect((await standing()).mailTrouble).toMatchObject({ trouble: 'unreachable' });
      await unguarded(stage.orm).nativeUpdate(MessageRow, { state: 'uncertain' }, { state: 'queued' });
      await unguarded(stage.orm).nativeDelete(MailTroubleRow, {});
      await unguarded(stage.orm).nativeUpdate(MessageRow, { state: 'queued' }, { sendAt: at('2026-09-05T09:30') });
    }
    smtp.answer = 'accept';
    await stage.dispatcher.drain();
    expect(await states()).toEqual(['sent', 'sent', 'sent']);
    expect((await standing()).mailTrouble).toBeNull();
  });
});

test('a reader whose mail drips does not hold up the others', async () => {
  await open({ longest: 1500 });
  smtp.slowFor = 'p1@saltmarsh.example';
  await roundAt('2026-09-05T09:30');
  expect(await states()).toEqual(['queued', 'sent', 'sent']);
  expect((await unguarded(stage.orm).find(WorkerRow, {})).length).toBe(1);
});
