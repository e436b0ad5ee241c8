// Runs on PostgreSQL too.
/** Rounds at their edges: late by a moment, in trouble, refused, or passed by hand. */
import { asTx } from '../../testing/asTx.ts';
import { afterEach, describe, expect, test } from '@jest/globals';
import { accountActor } from '@zest-bell/core/access';
import { MINUTE } from '@zest-bell/core/time';
import { makeCourse } from '@zest-bell/core/course';
import { CourseRow, PersonRow } from '../../course/entity.ts';
import { MessageRow, NudgeRow, RefusalRow } from '../../mail/nudges/entity.ts';
import { inTransaction } from '../../platform/database/transaction.ts';
import { RuleRow } from '../../rules/entity.ts';
import { insertRule } from '../../rules/repository.ts';
import {
  at,
  COURSE,
  openStage,
  SENDER,
  ruleOf,
  visit,
  type StageSetting,
  type TestStage,
} from '../../testing/stage.ts';
import { WordingRow } from '../../wording/entity.ts';
import { RoundRow, TroubleRow } from './entity.ts';
import { fallingCaseOf } from './fallingCase.ts';
import { sendPastLimits, type PastLimits } from './letThrough.ts';
import { limitLogForDraft } from './limitLog.ts';
import { nextRoundOfAll, runRoundNow, runDueRounds } from './scheduler.ts';
import { wouldDecide } from './wouldDecide.ts';
import { insertCourse } from '../../testing/insertCourse.ts';
import { unguarded } from '../../testing/unguarded.ts';

let stage: TestStage;
afterEach(() => stage.close());
const em = () => unguarded(stage.orm);
const open = async (setting: Partial<StageSetting> = {}) => {
  stage = await openStage({ now: '2026-09-01T12:00', ...setting });
};
const roundAt = (when: string) => {
  stage.clock.set(at(when));
  return runDueRounds(stage.services);
};
const nudges = () => em().find(NudgeRow, {}, { orderBy: { id: 'asc' } });
const gone = (id: string) => ruleOf({ id, name: id, when: { measure: 'score', item: 'q9', is: '<', value: 50 } });
const code = (work: Promise<unknown>) =>
  work.then(
    () => 'done',
    (error: { code: string; problems?: readonly { code: string; message: string }[] }) =>
      error.problems?.[0] ? [error.code, error.problems[0].code, error.problems[0].message] : error.code,
  );

describe('a round that is late', () => {
  test('by two minutes is held at its own instant, and by more now', async () => {
    await open();
    stage.clock.set(at('2026-09-02T09:30') + 2 * MINUTE);
    expect(await runDueRounds(stage.services)).toMatchObject([
      { trigger: 'regular', at: at('2026-09-02T09:30'), missed: [] },
    ]);
    stage.clock.set(at('2026-09-03T09:30') + 2 * MINUTE + 1);
    expect(await runDueRounds(stage.services)).toMatchObject([
      { trigger: 'late', at: at('2026-09-03T09:30') + 2 * MINUTE + 1, missed: [at('2026-09-03T09:30')] },
    ]);
  });

  test('waits while its mail is stopped, and the rounds of other courses go on', async () => {
    await open();
    const id = await insertCourse(em(), { ...COURSE, code: 'NAV 121' }, { sender: SENDER });
    await insertRule(
      asTx(em()),
      { id, course: makeCourse(COURSE) },
      ruleOf({ id: 'elsewhere' }),
      null,
      at('2026-09-01T12:00'),
    );
    await em().nativeUpdate(CourseRow, { id: 1 }, { stoppedAt: at('2026-09-01T13:00') });
    await roundAt('2026-09-02T09:30');
    expect(await em().count(RoundRow, { course: 1 })).toBe(0);
    expect((await stage.rule()).nextRoundAt).toBe(at('2026-09-02T09:30'));
    // The other course has had its round. What waits already is no longer to come.
    expect(await em().count(RoundRow, { course: id, rule: 'elsewhere' })).toBe(1);
    expect(await nextRoundOfAll(stage.services)).toBe(at('2026-09-03T09:30'));
    await em().nativeUpdate(CourseRow, { id: 1 }, { stoppedAt: null });
    expect((await roundAt('2026-09-03T12:00')).filter((round) => round.course === 1)).toMatchObject([
      { rule: 'away', trigger: 'late', missed: [at('2026-09-02T09:30'), at('2026-09-03T09:30')] },
    ]);
    expect(await nextRoundOfAll(stage.services)).toBe(at('2026-09-04T09:30'));
  });

  test('is owed although its rule is renamed while mail is stopped, until the rule is turned off', async () => {
    await open();
    const ada = await stage.signIn();
    const cards = async () =>
      (await ada.get('/api/v1/courses/1/rules').expect(200)).body as { rule: { id: string }; version: number }[];
    const save = async (change: object) => {
      const [card] = await cards();
      const body = { rule: { ...card!.rule, ...change }, version: card!.version };
      await ada.put(`/api/v1/courses/1/rules/${card!.rule.id}`).send(body).expect(200);
    };
    await em().nativeUpdate(CourseRow, { id: 1 }, { stoppedAt: at('2026-09-01T13:00') });
    await roundAt('2026-09-02T09:30');
    stage.clock.set(at('2026-09-02T10:00'));
    await save({ name: 'Away for long' });
    expect((await stage.rule()).nextRoundAt).toBe(at('2026-09-02T09:30'));
    await em().nativeUpdate(CourseRow, { id: 1 }, { stoppedAt: null });
    expect(await roundAt('2026-09-02T10:05')).toMatchObject([{ rule: 'away', missed: [at('2026-09-02T09:30')] }]);
    // Off, it owes nothing.
    await em().nativeUpdate(RuleRow, {}, { nextRoundAt: at('2026-09-02T09:30') });
    const rules = [{ rule: 'away', version: (await cards())[0]!.version }];
    await ada.post('/api/v1/courses/1/rules/status').send({ rules, status: 'paused' }).expect(200);
    expect((await stage.rule()).nextRoundAt).toBeNull();
  });

  test('comes before one that is due later, and rules that look at one instant are one round', async () => {
    const evening = { start: '2026-08-31T20:00', rrule: 'FREQ=DAILY' };
    await open({
      rules: [
        ruleOf({ id: 'evening', rhythm: evening }),
        ruleOf(),
        ruleOf({ id: 'second' }),
        ruleOf({ id: 'off', status: 'paused' }),
      ],
    });
    expect(await nextRoundOfAll(stage.services)).toBe(at('2026-09-01T20:00'));
    const rounds = await roundAt('2026-09-02T09:31');
    expect(rounds.map((r) => [r.rule, r.trigger, r.at])).toEqual([
      ['away', 'regular', at('2026-09-02T09:30')],
      ['second', 'regular', at('2026-09-02T09:30')],
      ['evening', 'late', at('2026-09-02T09:31')],
    ]);
  });
});

describe('a rule whose round fails', () => {
  test('is tried again ever later, since its first failure, and is forgotten once it works', async () => {
    await open({ rules: [gone('broken'), ruleOf()] });
    const trouble = () => em().findOne(TroubleRow, { rule: 'broken' });
    const first = at('2026-09-02T09:30');
    // It was planned while the item was there.
    await em().nativeUpdate(RuleRow, { key: 'broken' }, { nextRoundAt: first });
    expect((await roundAt('2026-09-02T09:30')).map((r) => r.rule)).toEqual(['away']);
    let next = first;
    for (const [i, minutes] of [1, 2, 5, 10, 30, 30].entries()) {
      expect(await trouble()).toMatchObject({ since: first, attempts: i + 1, nextTryAt: next + minutes * MINUTE });
      stage.clock.set(next + minutes * MINUTE - 1);
      await runDueRounds(stage.services);
      expect((await trouble())!.attempts).toBe(i + 1);
      next += minutes * MINUTE;
      stage.clock.set(next);
      await runDueRounds(stage.services);
    }
    expect((await trouble())!.message).toMatch(/Open the rule and choose something else\.$/);
    expect((await em().findOneOrFail(RuleRow, { key: 'broken' })).nextRoundAt).toBe(first);
    await em().insert(TroubleRow, { course: 2, rule: 'broken', since: 1, attempts: 1, nextTryAt: 1, message: 'x' });
    await em().nativeUpdate(RuleRow, { key: 'broken' }, { document: (await stage.rule()).document });
    expect((await roundAt('2026-09-02T12:00')).map((r) => [r.rule, r.trigger])).toEqual([['broken', 'late']]);
    expect((await em().find(TroubleRow, {})).map((t) => t.course)).toEqual([2]);
  });

  test('or cannot be read is a trouble of its own, and its claim is free for the next try', async () => {
    await open({ rules: [ruleOf({ id: 'bad' }), ruleOf()] });
    await em().nativeUpdate(RuleRow, { key: 'bad' }, { document: { id: 'bad' } });
    expect((await roundAt('2026-09-02T09:30')).map((r) => r.rule)).toEqual(['away']);
    expect(await em().find(TroubleRow, {})).toMatchObject([
      { rule: 'bad', attempts: 1, since: at('2026-09-02T09:30') },
    ]);
    expect(await em().count(RoundRow)).toBe(1);
  });

  test('says so when it is rung, and a ring of a rule that is off decides nothing', async () => {
    await open({ rules: [gone('broken'), ruleOf({ status: 'paused' })] });
    const broken = await em().findOneOrFail(RuleRow, { key: 'broken' });
    expect(await code(runRoundNow(stage.services, 1, broken, 1))).toEqual([
      'ruleTrouble',
      'ruleTrouble',
      expect.stringContaining('Open the rule and choose something else.'),
    ]);
    expect(await code(runRoundNow(stage.services, 1, await stage.rule(), 1))).toBe('busy');
    expect(await em().count(RoundRow)).toBe(0);
  });
});

describe('what a round stores', () => {
  test('counts each way in which it came out, and a nudge with its messages, the student’s first', async () => {
    const contacts = [{ kind: 'coach', name: 'C', email: 'c@saltmarsh.example' }];
    const people = COURSE.people.map((p) => ({ ...p, contacts }));
    await open({
      course: { people },
      rules: [
        ruleOf({ steps: [{ deliver: 'send', to: ['contact:coach', 'student'], wording: 'gentle' }] }),
        ruleOf({ id: 'held', steps: [{ deliver: 'hold', to: ['contact:coach'], wording: 'gentle' }] }),
      ],
    });
    await stage.tell([visit('p3', '2026-09-01T11:00')]);
    const rounds = await roundAt('2026-09-05T09:30');
    expect(rounds.slice(-2)).toMatchObject([
      { rule: 'away', version: 1, matched: 2, heard: 2, held: 0, withheld: 0, withdrawn: 0 },
      { rule: 'held', version: 1, matched: 2, heard: 0, held: 2, withheld: 0, withdrawn: 0 },
    ]);
    const [sent, , held] = await nudges();
    expect(sent).toMatchObject({
      student: 'p1',
      state: 'queued',
      toStudent: true,
      reason: null,
      passed: null,
      passedBy: null,
      wording: 'gentle',
      step: 0,
    });
    expect(held).toMatchObject({ student: 'p1', rule: 'held', state: 'held', toStudent: false });
    const messages = (nudge: number) => em().find(MessageRow, { nudge }, { orderBy: { id: 'asc' } });
    expect(await messages(sent!.id)).toMatchObject([
      { kind: 'contact', lead: false, state: 'queued', heldFor: null, sendAt: at('2026-09-05T09:30') },
      { kind: 'student', lead: true, state: 'queued' },
    ]);
    expect(await messages(held!.id)).toMatchObject([{ kind: 'contact', lead: true, state: 'held', heldFor: 'step' }]);
  });

  test('a refusal goes on in one line, and another limit, spell or step begins a new one', async () => {
    await open({ course: { people: [COURSE.people[0]!, COURSE.people[3]!] } });
    const left = () => em().nativeUpdate(NudgeRow, {}, { state: 'sent' });
    const lines = async () =>
      (await em().find(RefusalRow, {}, { orderBy: { id: 'asc' } })).map((r) => [
        r.reason,
        r.rounds,
        r.firstRound,
        r.lastRound,
      ]);
    await roundAt('2026-09-05T09:30');
    // While the nudge is on its way it is what is in the way, and then that there was one.
    await roundAt('2026-09-06T09:30');
    await left();
    for (const day of ['07', '08', '09']) await roundAt(`2026-09-${day}T09:30`);
    const first = ['pending', 1, at('2026-09-06T09:30'), at('2026-09-06T09:30')];
    const second = ['perSpell', 3, at('2026-09-07T09:30'), at('2026-09-09T09:30')];
    expect(await lines()).toEqual([first, second]);
    stage.clock.set(at('2026-09-09T12:30'));
    await stage.tell([visit('p1', '2026-09-09T12:00')]);
    await roundAt('2026-09-15T09:30');
    await left();
    for (const day of ['16', '17']) await roundAt(`2026-09-${day}T09:30`);
    expect(await lines()).toEqual([first, second, ['perSpell', 2, at('2026-09-16T09:30'), at('2026-09-17T09:30')]]);
    // Rung twice in between, it is refused in a round more each time.
    const rule = await stage.rule();
    await runRoundNow(stage.services, 1, rule, 1);
    expect((await lines()).at(-1)!.slice(0, 2)).toEqual(['perSpell', 2]);
    stage.clock.set(at('2026-09-17T12:00'));
    await runRoundNow(stage.services, 1, rule, 1);
    expect((await lines()).at(-1)).toEqual(['perSpell', 3, at('2026-09-16T09:30'), at('2026-09-17T12:00')]);
  });

  test('what would be decided has no effect', async () => {
    await open();
    const course = await stage.services.live.get(em(), 1);
    const would = await wouldDecide(em(), course, ruleOf(), at('2026-09-05T09:30'), at('2026-09-05T09:30'));
    expect([would.matching, would.decisions.map((d) => d.outcome)]).toEqual([3, ['sent', 'sent', 'sent']]);
    expect(await nudges()).toEqual([]);
    await roundAt('2026-09-05T09:30');
    const after = await wouldDecide(em(), course, ruleOf(), at('2026-09-05T12:00'), at('2026-09-05T12:00'));
    expect(after.decisions.map((d) => d.reason)).toEqual(['pending', 'pending', 'pending']);
  });
});

describe('who falls through is read from', () => {
  test('the rules that are on and can be read, the nudges of whom they find, mail that came back and rounds that wait', async () => {
    await open({ rules: [ruleOf(), ruleOf({ id: 'off', status: 'paused' }), ruleOf({ id: 'bad' })] });
    await roundAt('2026-09-05T09:30');
    await em().nativeUpdate(RuleRow, { key: 'bad' }, { document: {} });
    await em().nativeUpdate(PersonRow, { key: 'p2' }, { bouncedAt: 7 });
    await em().nativeUpdate(PersonRow, { key: 'p3' }, { bouncedAt: 8, active: false });
    stage.clock.set(at('2026-09-06T09:32'));
    const { rules, given } = await fallingCaseOf(em(), stage.services, 1);
    expect([...rules.keys()]).toEqual(['away', 'off', 'bad']);
    expect(given.rules.map((r) => r.id)).toEqual(['away']);
    expect([...given.bounced]).toEqual([['p2', 7]]);
    expect([...given.overdue]).toEqual([['away', at('2026-09-06T09:30')]]);
    expect(given.log.of('p1').map((n) => n.rule)).toEqual(['away', 'bad']);
    expect(given.now).toBe(at('2026-09-06T09:32'));
  });
});

describe('limits of a rule that is being composed', () => {
  test('count its own nudges and answers, and of others what the budget may still count', async () => {
    await open({
      course: { settings: { quietHours: null, budget: { count: 5, days: 3 } } },
      rules: [ruleOf(), ruleOf({ id: 'other' })],
    });
    await roundAt('2026-09-05T09:30');
    const course = await stage.services.live.get(em(), 1);
    const facts = async (row: RuleRow | null, when: string) => {
      const { nudges: found, replies } = await limitLogForDraft(em(), course, row, at(when));
      return [[...new Set(found.map((n) => n.rule))].sort(), replies.length];
    };
    await em()
      .getConnection()
      .execute(
        "insert into reply (course, kind, student, at, message_id, sender, subject, body) values (1, 'reply', 'p1', 5, 'm', 's', '', '')",
      )
      .catch(() => undefined);
    expect((await facts(null, '2026-09-06T09:30'))[0]).toEqual(['away', 'other']);
    expect((await facts(null, '2026-09-09T09:30'))[0]).toEqual([]);
    expect((await facts(await stage.rule(), '2026-09-09T09:30'))[0]).toEqual(['away']);
  });
});

describe('a nudge by hand that passes a limit', () => {
  const order = (more: Partial<PastLimits> = {}): PastLimits => ({
    course: 1,
    rule: 'away',
    student: 'p1',
    wording: null,
    by: accountActor(1),
    now: at('2026-09-08T12:00'),
    ...more,
  });
  const send = (more: Partial<PastLimits> = {}) =>
    code(inTransaction(stage.orm, (tx) => sendPastLimits(asTx(tx), stage.services.live, order(more))));
  /** p1, p2 and p3 were nudged on Sep 5, and the mail has left. */
  const nudged = async (setting: Partial<StageSetting> = {}) => {
    await open(setting);
    await roundAt('2026-09-05T09:30');
    for (const row of [NudgeRow, MessageRow]) await em().nativeUpdate(row as typeof NudgeRow, {}, { state: 'sent' });
    stage.clock.set(at('2026-09-08T12:00'));
  };

  test('is stored with the limits that it passed, who sent it, and the wording of their choice', async () => {
    await nudged();
    expect(await send()).toBe('done');
    expect((await nudges()).at(-1)).toMatchObject({
      student: 'p1',
      state: 'queued',
      roundAt: at('2026-09-08T12:00'),
      passed: ['perSpell'],
      passedBy: 'account:1',
      wording: 'gentle',
      toStudent: true,
    });
    await em().insert(WordingRow, {
      course: 1,
      key: 'short',
      name: 'Short',
      purpose: 'support',
      subject: 'S',
      body: 'B',
    } as never);
    expect(await send({ student: 'p2', wording: 'short' })).toBe('done');
    expect((await nudges()).at(-1)).toMatchObject({ student: 'p2', wording: 'short' });
    expect(await send({ student: 'p3', wording: 'none' })).toBe('notFound');
    expect(await em().count(NudgeRow, { student: 'p3' })).toBe(1);
  });

  test('says why it cannot be sent, with what to do', async () => {
    await nudged({ rules: [ruleOf(), ruleOf({ id: 'off', status: 'paused' })] });
    expect(await send({ rule: 'nothing' })).toBe('notFound');
    expect(await send({ rule: 'off' })).toBe('ruleOff');
    expect(await send({ student: 'nobody' })).toEqual([
      'notReachable',
      'noMatch',
      'The student no longer matches this rule, so there is nothing to write about',
    ]);
    expect(await send({ now: at('2026-12-19T12:00') })).toEqual([
      'notReachable',
      'courseOver',
      'The course is over, and nothing is sent after its last day',
    ]);
    await em().nativeUpdate(NudgeRow, { student: 'p2' }, { state: 'queued' });
    expect(await send({ student: 'p2' })).toEqual([
      'notReachable',
      'pending',
      'A message to this student is already on its way or waiting for you',
    ]);
  });

  test.each([
    ['paused', { paused: true }, 'The student paused nudges. Only rules that are essential still write to them'],
    ['noAddress', { email: null }, 'The student has no email address. Add one first'],
  ])('%s', async (why, person, message) => {
    await open({ course: { people: COURSE.people.map((p) => (p.id === 'p1' ? { ...p, ...person } : p)) } });
    expect(await send()).toEqual(['notReachable', why, message]);
  });
});
