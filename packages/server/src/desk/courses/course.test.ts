// Runs on PostgreSQL too. Covers rounds/courses.
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { prove } from '../../access/links.ts';
import { DEFAULT_GUARDS } from '@zest-bell/core/rounds';
import type { LimitsEffectAnswer, StandingAnswer, AheadAnswer, TodayAnswer } from '@zest-bell/core/exchange';
import { CourseRow } from '../../course/entity.ts';
import { queuePlainMail } from '../../mail/plainMail/queue.ts';
import { inTransaction } from '../../platform/database/transaction.ts';
import { MessageRow, NudgeRow } from '../../mail/nudges/entity.ts';
import { TroubleRow } from '../../rounds/deciding/entity.ts';
import { nextRoundOfAll, runDueRounds } from '../../rounds/deciding/scheduler.ts';
import {
  at,
  COURSE,
  openStage,
  ruleOf,
  visit,
  type Agent,
  type StageSetting,
  type TestStage,
} from '../../testing/stage.ts';
import { openSmtp, type TestSmtp } from '../../testing/smtp.ts';
import { breakTable } from '../../testing/database.ts';
import { unguarded, freely } from '../../testing/unguarded.ts';
import { asTx } from '../../testing/asTx.ts';

let stage: TestStage;
let smtp: TestSmtp;
let ada: Agent;
beforeEach(async () => {
  smtp = await openSmtp();
});
afterEach(async () => {
  await stage.close();
  await smtp.close();
});
const open = async (setting: Partial<StageSetting> = {}) => {
  stage = await openStage({ now: '2026-09-05T08:00', smtp: smtp.url, ...setting });
  ada = await stage.signIn();
};
const course = '/api/v1/courses/1';
const roundAt = async (when: string) => {
  stage.clock.set(at(when));
  await runDueRounds(stage.services);
  await stage.dispatcher.drain();
};
const standing = async () => (await ada.get(`${course}/standing`).expect(200)).body as StandingAnswer;
const nudges = () => unguarded(stage.orm).find(NudgeRow, {}, { orderBy: { id: 'asc' } });

describe('the limits of a course', () => {
  const limits = { settings: COURSE.settings, breaks: [], marks: { mastery: 80 }, guards: DEFAULT_GUARDS };

  test('are changed at once: breaks move the rounds to come', async () => {
    await open({ rules: [ruleOf({ rhythm: { start: '2026-08-31T09:30', rrule: 'FREQ=DAILY', skipBreaks: true } })] });
    const breaks = [{ from: '2026-09-05', to: '2026-09-07', name: 'Labor Day' }];
    await ada
      .put(`${course}/limits`)
      .send({ limits: { ...limits, breaks }, version: 1 })
      .expect(204);
    expect(await nextRoundOfAll(stage.services)).toBe(at('2026-09-08T09:30'));
    expect((await ada.get(course)).body).toMatchObject({ breaks, guards: DEFAULT_GUARDS, version: 2 });
    const old = await ada.put(`${course}/limits`).send({ limits, version: 1 }).expect(409);
    expect(old.body.code).toBe('changedMeanwhile');
  });

  test('name what does not fit at its field', async () => {
    await open();
    const draft = {
      ...limits,
      settings: {
        quietHours: { from: '21:00', days: ['MO', 'TU', 'WE', 'TH', 'FR', 'SA', 'SU'] },
        budget: { count: 1, days: 0 },
      },
      breaks: [{ from: '2026-09-07', to: '2026-09-01' }],
      guards: { askAbove: 2, staleHours: 0 },
    };
    const res = await ada.put(`${course}/limits`).send({ limits: draft, version: 1 }).expect(400);
    expect(res.body.problems.map((p: { path: string }) => p.path).sort()).toEqual([
      'limits.breaks[0].to',
      'limits.guards.askAbove',
      'limits.guards.staleHours',
      'limits.settings.budget.days',
      'limits.settings.quietHours.days',
      'limits.settings.quietHours.to',
    ]);
  });

  test('keep a mark that a rule compares with', async () => {
    const when = { measure: 'score', item: 'q1', is: '<', value: { mark: 'mastery' } };
    await open({ rules: [ruleOf({ when })] });
    const res = await ada
      .put(`${course}/limits`)
      .send({ limits: { ...limits, marks: {} }, version: 1 })
      .expect(400);
    expect(res.body.problems[0]).toMatchObject({ path: 'limits.marks.mastery', code: 'markInUse' });
    const other = { ...limits, marks: { mastery: 75 } };
    await ada.put(`${course}/limits`).send({ limits: other, version: 1 }).expect(204);
  });

  test('say what they would have changed in the last four weeks', async () => {
    await open({ now: '2026-09-09T08:00', rules: [ruleOf({ repeat: {} })] });
    const draft = { ...limits, settings: { quietHours: null, budget: { count: 1, days: 14 } } };
    const effect = (await ada.post(`${course}/limits/effect`).send({ limits: draft }).expect(200))
      .body as LimitsEffectAnswer;
    // Three students from Sep 5 on, four rounds each; with the budget one each.
    expect([effect.before.sent, effect.after.sent, effect.after.overBudget, effect.changed]).toEqual([12, 3, 9, 9]);
    expect(effect.changes[0]).toMatchObject({ ruleName: 'Away', studentName: 'P1 Lind', after: { reason: 'budget' } });
    expect((await ada.get(course)).body.settings.budget).toBeNull();
  });
});

describe('data that is older than the course allows', () => {
  test('holds rounds and mail until the platform is heard of again; then they happen once, late', async () => {
    await open({ now: '2026-09-01T12:00', guards: { askAbove: 1, staleHours: 24 } });
    await stage.tell([visit('p1', '2026-09-01T11:00')]);
    await roundAt('2026-09-05T09:30');
    expect(await nudges()).toEqual([]);
    expect(await standing()).toMatchObject({
      feed: { heardAt: at('2026-09-01T12:00'), staleHours: 24, stale: true },
      overdue: [{ rule: 'away', since: at('2026-09-02T09:30') }],
    });
    expect((await ada.post(`${course}/rules/away/ring`).expect(409)).body.code).toBe('dataStale');
    stage.clock.set(at('2026-09-05T10:00'));
    await stage.tell([visit('p2', '2026-09-05T08:00')]);
    await roundAt('2026-09-05T10:00');
    expect((await nudges()).map((n) => [n.student, n.state])).toEqual([['p3', 'sent']]);
    expect((await standing()).overdue).toEqual([]);
  });

  test('an empty delivery says that the platform is there', async () => {
    await open({ now: '2026-09-05T08:00', guards: { askAbove: 1, staleHours: 24 } });
    await stage.tell([]);
    await roundAt('2026-09-05T09:30');
    expect(await nudges()).toHaveLength(3);
  });

  test('holds what is queued as well: its second look would stand on old facts', async () => {
    const quiet = { quietHours: { from: '09:00', to: '09:45', days: [] }, budget: null };
    await open({ guards: { askAbove: 1, staleHours: 2 }, course: { settings: quiet } });
    await stage.tell([]);
    await roundAt('2026-09-05T09:30');
    await roundAt('2026-09-05T11:00');
    expect(smtp.mails).toEqual([]);
    await stage.tell([visit('p1', '2026-09-05T10:00')]);
    await stage.dispatcher.drain();
    expect((await nudges()).map((n) => [n.student, n.state])).toEqual([
      ['p1', 'withdrawn'],
      ['p2', 'sent'],
      ['p3', 'sent'],
    ]);
  });
});

describe('the switch over all mail of the course', () => {
  const quiet = { quietHours: { from: '09:00', to: '10:00', days: [] }, budget: null };
  const stop = () => ada.post(`${course}/mail/stop`).expect(200);
  const start = (queued: string, missed: string) =>
    ada.post(`${course}/mail/start`).send({ queued, missed }).expect(200);

  test('stops what is queued and every round, says so, and starts both again', async () => {
    await open({ course: { settings: quiet } });
    await roundAt('2026-09-05T09:30');
    expect((await stop()).body).toMatchObject({ queued: 3, stopped: { at: at('2026-09-05T09:30'), by: 'Ada Lind' } });
    await roundAt('2026-09-07T12:00');
    expect(smtp.mails).toEqual([]);
    expect((await ada.post(`${course}/rules/away/ring`).expect(409)).body.code).toBe('mailStopped');
    await stage.tell([visit('p1', '2026-09-07T11:00')]);
    const after = (await start('send', 'look')).body as StandingAnswer;
    expect(after).toMatchObject({ stopped: null, queued: 0, overdue: [] });
    expect((await nudges()).map((n) => [n.student, n.state, n.reason ?? null])).toEqual([
      ['p1', 'withdrawn', 'noLongerTrue'],
      ['p2', 'sent', null],
      ['p3', 'sent', null],
    ]);
  });

  test('may withdraw what waits and skip what was missed', async () => {
    await open({ course: { settings: quiet }, rules: [ruleOf({ repeat: {} })] });
    await roundAt('2026-09-05T09:30');
    await stop();
    stage.clock.set(at('2026-09-07T12:00'));
    await start('withdraw', 'skip');
    expect((await nudges()).map((n) => [n.state, n.reason])).toEqual(Array(3).fill(['withdrawn', 'stopped']));
    expect(await nextRoundOfAll(stage.services)).toBe(at('2026-09-08T09:30'));
    expect(smtp.mails).toEqual([]);
  });

  test('that was restored from a backup may leave what waits unclear, as it may have left since', async () => {
    await open({ course: { settings: quiet }, rules: [ruleOf({ repeat: {} })] });
    await roundAt('2026-09-05T09:30');
    const copied = at('2026-09-05T10:00');
    // What the backup does to its copy.
    await freely(stage.orm.em.fork()).nativeUpdate(
      CourseRow,
      {},
      { copyFrom: copied, stoppedAt: copied, stoppedBy: 'the backup' },
    );
    expect((await ada.get(`${course}/standing`).expect(200)).body).toMatchObject({ copyFrom: copied, queued: 3 });
    stage.clock.set(at('2026-09-07T12:00'));
    expect((await start('unclear', 'skip')).body).toMatchObject({ copyFrom: null, queued: 0, uncertain: 3 });
    expect((await nudges()).map((n) => n.state)).toEqual(Array(3).fill('uncertain'));
    expect(smtp.mails).toEqual([]);
  });

  test('that was restored from a backup withdraws nudges if told to, and leaves answers unclear, as neither may go twice', async () => {
    await open({ course: { settings: quiet } });
    await roundAt('2026-09-05T09:30');
    const now = stage.clock.now();
    const answer = {
      kind: 'answer' as const,
      course: 1,
      reply: null,
      nudge: null,
      by: 'Ada',
      at: now,
      inReplyTo: null,
    };
    await inTransaction(stage.orm, (tx) =>
      queuePlainMail(
        asTx(tx),
        { ...answer, subject: 'Re', text: 'See you', messageId: '<a@x.example>' },
        { name: 'P1', address: 'p1@saltmarsh.example', now },
      ),
    );
    await unguarded(stage.orm).nativeUpdate(CourseRow, {}, { copyFrom: now, stoppedAt: now, stoppedBy: 'the backup' });
    await start('withdraw', 'skip');
    const left = await unguarded(stage.orm).find(MessageRow, {}, { orderBy: { id: 'asc' } });
    expect(left.map((m) => m.state)).toEqual(['withdrawn', 'withdrawn', 'withdrawn', 'uncertain']);
    expect(smtp.mails).toEqual([]);
  });

  test('a second process does not send either', async () => {
    await open({ course: { settings: quiet } });
    await roundAt('2026-09-05T09:30');
    await stop();
    const other = await openStage({ now: '2026-09-05T11:00', folder: stage.folder, smtp: smtp.url });
    await runDueRounds(other.services);
    await other.dispatcher.drain();
    await other.close();
    expect(await unguarded(stage.orm).count(MessageRow, { state: 'queued' })).toBe(3);
    expect(smtp.mails).toEqual([]);
  });
});

describe('a round that fails', () => {
  const breakDisk = (on: boolean) => breakTable(stage.orm.em, 'nudge', on);

  test('leaves nothing half done, stands on Today, is tried again ever later, and goes when it works', async () => {
    await open();
    await breakDisk(true);
    await roundAt('2026-09-05T09:30');
    expect(await unguarded(stage.orm).count(MessageRow)).toBe(0);
    const [trouble] = (await standing()).troubles;
    expect(trouble).toMatchObject({ rule: 'away', name: 'Away', attempts: 1, nextTryAt: at('2026-09-05T09:31') });
    expect(trouble!.message).toContain('the disk is full');
    await roundAt('2026-09-05T09:30');
    expect((await standing()).troubles[0]!.attempts).toBe(1);
    await roundAt('2026-09-05T09:31');
    expect((await standing()).troubles[0]).toMatchObject({ attempts: 2, nextTryAt: at('2026-09-05T09:33') });
    await breakDisk(false);
    const after = (await ada.post(`${course}/rounds/retry`).expect(200)).body as StandingAnswer;
    expect(after.troubles).toEqual([]);
    expect(smtp.mails).toHaveLength(3);
  });

  test('of a rule that cannot be read stops no other', async () => {
    await open({ rules: [ruleOf(), ruleOf({ id: 'second', name: 'Second' })] });
    await unguarded(stage.orm).getConnection().execute(`update rule set document = '{}' where key = 'away'`);
    await roundAt('2026-09-05T09:30');
    expect((await nudges()).map((n) => n.rule)).toEqual(['second', 'second', 'second']);
    expect(await unguarded(stage.orm).count(TroubleRow, { rule: 'away' })).toBe(1);
    // Nor the morning page.
    for (const page of ['today', 'today/ahead', 'falling']) await ada.get(`${course}/${page}`).expect(200);
  });
});

test('the morning desk says what rang and whom it reached, what rings next, and what is about to end', async () => {
  const rhythm = { start: '2026-08-31T09:30', rrule: 'FREQ=DAILY', until: '2026-09-07' };
  await open({ rules: [ruleOf({ rhythm })] });
  await roundAt('2026-09-05T09:30');
  const today = (await ada.get(`${course}/today`).expect(200)).body as TodayAnswer;
  expect(today.rang[0]).toMatchObject({ name: 'Away', heard: 3, weight: 'normal' });
  expect(today.rang[0]!.nudged.map((n) => n.name)).toEqual(['P1 Lind', 'P2 Lind', 'P3 Lind']);
  const ahead = (await ada.get(`${course}/today/ahead`).expect(200)).body as AheadAnswer;
  // All three were nudged once each time: nobody is left for the coming days.
  expect(ahead.days).toMatchObject([
    { date: '2026-09-06', rules: [{ name: 'Away', rounds: [at('2026-09-06T09:30')], nudges: 0 }] },
    { date: '2026-09-07', rules: [{ name: 'Away', rounds: [at('2026-09-07T09:30')], nudges: 0 }] },
  ]);
  expect(today.endingSoon).toEqual([{ rule: 'away', name: 'Away', last: at('2026-09-07T09:30') }]);
});

describe('the sender of a course', () => {
  const sender = {
    name: 'Dr. B. Holm',
    address: 'holm@saltmarsh.example',
    replyTo: 'holm@saltmarsh.example',
    signature: 'Warmly,\nB. Holm',
    officeHours: 'Tuesdays 2 to 4 PM',
    answers: 'own',
  };

  test('is changed, and the next message speaks in its voice', async () => {
    await open();
    const refused = await ada.put(`${course}/sender`).send({ sender, version: 1 }).expect(400);
    expect(refused.body).toMatchObject({
      code: 'senderNotProven',
      problems: [
        { path: 'sender.address', message: 'This address is not proven yet.' },
        { path: 'sender.replyTo', code: 'senderNotProven' },
      ],
    });
    await inTransaction(stage.orm, (tx) => prove(asTx(tx), 1, sender.address, 'code'));
    await ada.put(`${course}/sender`).send({ sender, version: 1 }).expect(204);
    await roundAt('2026-09-05T09:30');
    expect(smtp.mails[0]!.mail.from?.value[0]).toEqual({ name: 'Dr. B. Holm', address: 'holm@saltmarsh.example' });
    expect(smtp.mails[0]!.mail.text).toContain('Warmly,\nB. Holm');
    await ada.put(`${course}/sender`).send({ sender, version: 1 }).expect(409);
  });

  test('names what does not fit at its field', async () => {
    await open();
    const draft = { ...sender, name: ' ', address: 'holm', replyTo: 'x\r\nBcc: y@z.example' };
    const res = await ada.put(`${course}/sender`).send({ sender: draft, version: 1 }).expect(400);
    const paths = res.body.problems.map((p: { path: string }) => p.path);
    expect(paths).toEqual(['sender.name', 'sender.address', 'sender.replyTo']);
  });

  test('a test of the mail settings goes to the one who asks, and says what the server said', async () => {
    await open();
    expect((await ada.post(`${course}/mail/test`).expect(200)).body).toMatchObject({
      kind: 'sent',
      response: expect.stringMatching(/^250/) as unknown,
    });
    expect(smtp.mails.map((m) => m.to)).toEqual([['ada@saltmarsh.example']]);
    smtp.answer = { code: 550, at: 'rcpt' };
    const refused = await ada.post(`${course}/mail/test`).expect(200);
    expect(refused.body.kind).toBe('permanent');
    expect(refused.body.response).toContain('550');
  });

  test('a wording is tested on oneself, as one student would read it', async () => {
    await open();
    const wording = {
      id: 'gentle',
      name: 'G',
      purpose: 'support',
      subject: 'Hello',
      text: 'Dear {{ student.first_name }}',
    };
    await ada.post(`${course}/wordings/test`).send({ wording, student: 'p2', when: null }).expect(200);
    expect(smtp.mails[0]).toMatchObject({ to: ['ada@saltmarsh.example'], mail: { subject: 'Test: Hello' } });
    expect(smtp.mails[0]!.mail.text!.trim()).toBe('Dear P2');
    expect(await nudges()).toEqual([]);
  });
});
