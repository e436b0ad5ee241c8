// Runs on PostgreSQL too.
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { NudgeRow, RefusalRow } from '../../mail/nudges/entity.ts';
import {
  at,
  classOf,
  COURSE,
  openStage,
  ruleOf,
  visit,
  type StageSetting,
  type TestStage,
} from '../../testing/stage.ts';
import { openSmtp, type TestSmtp } from '../../testing/smtp.ts';
import { RoundRow } from './entity.ts';
import { nextRoundOfAll, runDueRounds } from './scheduler.ts';
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
const open = async (setting: Partial<StageSetting> = {}) => {
  stage = await openStage({ now: '2026-09-01T12:00', smtp: smtp.url, ...setting });
};
const nudges = () => unguarded(stage.orm).find(NudgeRow, {}, { orderBy: { id: 'asc' } });
const roundAt = async (when: string) => {
  stage.clock.set(at(when));
  const rounds = await runDueRounds(stage.services);
  await stage.dispatcher.drain();
  return rounds;
};

describe('a rule rings on its rhythm', () => {
  test('[R1, R6] worked example 1: the first round in the spell, and once a spell', async () => {
    await open();
    await stage.tell([visit('p1', '2026-09-01T11:00')]);
    expect(await nextRoundOfAll(stage.services)).toBe(at('2026-09-02T09:30'));
    for (let day = 2; day <= 9; day++) await roundAt(`2026-09-0${day}T09:30`);
    const sent = (await nudges()).map((n) => [n.student, n.roundAt]);
    expect(sent).toEqual([
      ['p2', at('2026-09-05T09:30')],
      ['p3', at('2026-09-05T09:30')],
      ['p1', at('2026-09-07T09:30')],
    ]);
    const came = smtp.mails.map((m) => m.to[0]);
    // Those of one round may pass each other on their lines.
    expect([came.slice(0, 2).toSorted(), came.slice(2)]).toEqual([
      ['p2@saltmarsh.example', 'p3@saltmarsh.example'],
      ['p1@saltmarsh.example'],
    ]);
    const p2 = await unguarded(stage.orm).findOneOrFail(RefusalRow, { student: 'p2' });
    expect([p2.reason, p2.rounds, p2.firstRound, p2.lastRound]).toEqual([
      'perSpell',
      4,
      at('2026-09-06T09:30'),
      at('2026-09-09T09:30'),
    ]);
  });

  test('a round that is not due is not held, and one that was held is not held again', async () => {
    await open();
    expect(await roundAt('2026-09-02T09:29')).toEqual([]);
    expect(await roundAt('2026-09-02T09:30')).toHaveLength(1);
    expect(await runDueRounds(stage.services)).toEqual([]);
  });

  test('[R10] rounds missed while the machine was off happen once, now, and name the missed ones', async () => {
    await open({ now: '2026-09-03T12:00' });
    const [late] = await roundAt('2026-09-07T11:00');
    expect(late).toMatchObject({ trigger: 'late', at: at('2026-09-07T11:00') });
    expect(late).toMatchObject({ heard: 3, missed: [4, 5, 6, 7].map((d) => at(`2026-09-0${d}T09:30`)) });
    expect((await nudges()).every((n) => n.roundAt === at('2026-09-07T11:00'))).toBe(true);
    expect((await stage.rule()).nextRoundAt).toBe(at('2026-09-08T09:30'));
  });

  test('a round that is a moment late is held at its own instant', async () => {
    await open();
    stage.clock.set(at('2026-09-02T09:30') + 4000);
    expect(await runDueRounds(stage.services)).toMatchObject([{ trigger: 'regular', at: at('2026-09-02T09:30') }]);
  });

  test('[R2] all rules due at one instant are decided together, in their order, with one budget', async () => {
    await open({
      course: { settings: { quietHours: null, budget: { count: 1, days: 14 } } },
      rules: [ruleOf(), ruleOf({ id: 'second', name: 'Second' })],
    });
    const rounds = await roundAt('2026-09-05T09:30');
    expect(rounds.slice(-2).map((r) => [r.rule, r.heard, r.withheld])).toEqual([
      ['away', 3, 0],
      ['second', 0, 3],
    ]);
    expect(await unguarded(stage.orm).count(RefusalRow, { rule: 'second', reason: 'budget' })).toBe(3);
  });
});

describe('two processes on one database', () => {
  test('decide an instant once, and send each message once', async () => {
    await open({ now: '2026-09-04T12:00' });
    const other = await openStage({ now: '2026-09-04T12:00', folder: stage.folder, smtp: smtp.url });
    for (const s of [stage, other]) s.clock.set(at('2026-09-05T09:30'));
    const held = await Promise.all([runDueRounds(stage.services), runDueRounds(other.services)]);
    expect(held.flat()).toHaveLength(1);
    await Promise.all([stage.dispatcher.drain(), other.dispatcher.drain()]);
    await Promise.all([stage.dispatcher.drain(), other.dispatcher.drain()]);
    expect(smtp.mails.map((m) => m.to[0]).sort()).toEqual(['p1', 'p2', 'p3'].map((p) => `${p}@saltmarsh.example`));
    await other.close();
  });

  test('make up for missed rounds once, though they wake at different moments', async () => {
    await open({ now: '2026-09-03T12:00' });
    const other = await openStage({ now: '2026-09-03T12:00', folder: stage.folder, smtp: smtp.url });
    stage.clock.set(at('2026-09-07T11:00'));
    other.clock.set(at('2026-09-07T11:00') + 900);
    await Promise.all([runDueRounds(stage.services), runDueRounds(other.services)]);
    await other.close();
    expect(await unguarded(stage.orm).count(RoundRow)).toBe(1);
    expect(await nudges()).toHaveLength(3);
  });
});

describe('[R10] ring now', () => {
  test('rings at once with every limit, moves no regular round, and twice at one moment writes to nobody twice', async () => {
    await open({ now: '2026-09-07T08:00', rules: [ruleOf({ repeat: {} })] });
    const ada = await stage.signIn();
    const first = await ada.post('/api/v1/courses/1/rules/away/ring').expect(200);
    expect(first.body.round).toMatchObject({ trigger: 'ring', matched: 3, heard: 3, at: at('2026-09-07T08:00') });
    expect((await stage.rule()).nextRoundAt).toBe(at('2026-09-07T09:30'));
    await ada.post('/api/v1/courses/1/rules/away/ring').expect(200);
    expect(smtp.mails).toHaveLength(3);
  });

  test('is refused while the rule is off, and after the course', async () => {
    await open({ now: '2026-09-07T08:00', rules: [ruleOf({ status: 'paused' }), ruleOf({ id: 'on', name: 'On' })] });
    const ada = await stage.signIn();
    expect((await ada.post('/api/v1/courses/1/rules/away/ring').expect(409)).body.code).toBe('ruleOff');
    stage.clock.set(at('2026-12-19T00:00'));
    expect((await ada.post('/api/v1/courses/1/rules/on/ring').expect(409)).body.code).toBe('courseOver');
  });
});

test('[R6, R3] a nudge that a third party alone gets does not count for the budget, and an address is found for each', async () => {
  await open({
    course: { people: COURSE.people.map((p) => (p.id === 'p1' ? { ...p, email: null } : p)) },
    rules: [ruleOf({ steps: [{ deliver: 'send', to: ['student', 'instructor'], wording: 'gentle' }] })],
  });
  const rounds = await roundAt('2026-09-05T09:30');
  expect(rounds.at(-1)).toMatchObject({ matched: 3, heard: 2, withheld: 1 });
  // One message a person: never two of them in one To.
  expect(smtp.mails.map((m) => m.to)).toHaveLength(4);
  expect(smtp.mails.every((m) => m.to.length === 1)).toBe(true);
});

test('a large round lets others have their turn, between rules and as its nudges are stored', async () => {
  await open({ course: { people: classOf(900) } });
  let turns = 0;
  let running = true;
  const tick = () => {
    turns++;
    if (running) setImmediate(tick);
  };
  stage.clock.set(at('2026-09-05T09:30'));
  setImmediate(tick);
  await runDueRounds(stage.services);
  running = false;
  expect(await unguarded(stage.orm).count(NudgeRow)).toBe(900);
  // One for its rule, and one for every 200 nudges.
  expect(turns).toBeGreaterThanOrEqual(6);
});
