// Runs on PostgreSQL too.
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import type { LogAnswer, LogDetail, TermAnswer, WithheldLine } from '@zest-bell/core/exchange';
import { NudgeRow } from '../nudges/entity.ts';
import { RuleRow } from '../../rules/entity.ts';
import { runDueRounds } from '../../rounds/deciding/scheduler.ts';
import { openSmtp, type TestSmtp } from '../../testing/smtp.ts';
import { at, openStage, type Agent, type TestStage } from '../../testing/stage.ts';
import { unguarded } from '../../testing/unguarded.ts';

let stage: TestStage;
let smtp: TestSmtp;
let ada: Agent;
beforeEach(async () => {
  smtp = await openSmtp();
  stage = await openStage({ now: '2026-09-04T12:00', smtp: smtp.url });
  for (const day of ['05', '06']) {
    stage.clock.set(at(`2026-09-${day}T09:30`));
    await runDueRounds(stage.services);
    await stage.dispatcher.drain();
  }
  ada = await stage.signIn();
});
afterEach(async () => {
  await stage.close();
  await smtp.close();
});
const log = async (query = '') => (await ada.get(`/api/v1/courses/1/log${query}`).expect(200)).body as LogAnswer;

test('every nudge stands in the log, and is found by name, rule, state and date', async () => {
  const all = await log();
  expect(all.total).toBe(3);
  expect(all.counts).toMatchObject({ all: 3, sent: 3, failed: 0 });
  expect(all.lines[0]).toMatchObject({
    studentName: 'P3 Lind',
    ruleName: 'Away',
    subject: 'A quiet week in Coastal Navigation',
  });
  expect((await log('?search=p2')).lines.map((l) => l.student)).toEqual(['p2']);
  expect((await log('?search=quiet%20week')).total).toBe(3);
  expect((await log('?rule=none')).total).toBe(0);
  expect((await log('?state=failed')).total).toBe(0);
  expect((await log('?date=2026-09-05')).total).toBe(3);
  expect((await log('?date=2026-09-06')).total).toBe(0);
  expect((await log('?take=1&skip=2')).lines.map((l) => l.student)).toEqual(['p1']);
  await ada.get('/api/v1/courses/1/log?date=yesterday').expect(400);
});

test('what waited for a decision stands where it was sent', async () => {
  const first = (await log()).lines.find((l) => l.student === 'p1')!;
  await unguarded(stage.orm).nativeUpdate(NudgeRow, { id: first.nudge }, { lastAt: at('2026-09-07T11:00') });
  const [latest] = (await log()).lines;
  expect([latest!.student, latest!.at]).toEqual(['p1', at('2026-09-07T11:00')]);
});

test('a line opens to the whole message and every attempt', async () => {
  const detail = (await ada.get(`/api/v1/courses/1/log/${(await log()).lines[0]!.nudge}`).expect(200))
    .body as LogDetail;
  expect(detail).toMatchObject({ ruleVersion: 1, spellStart: at('2026-09-05T00:00'), roundAt: at('2026-09-05T09:30') });
  expect(detail.to).toHaveLength(1);
  expect(detail.to[0]!.attempts[0]).toMatchObject({ outcome: 'sent', text: 'P3,\n\nit has been 5 days.\n\nA. Lind' });
  await ada.get('/api/v1/courses/1/log/999').expect(404);
});

test('what the limits withheld is there too, one line a limit and spell', async () => {
  const lines = (await ada.get('/api/v1/courses/1/log/withheld').expect(200)).body as WithheldLine[];
  expect(lines.map((l) => [l.student, l.reason, l.rounds])).toEqual([
    ['p3', 'perSpell', 1],
    ['p2', 'perSpell', 1],
    ['p1', 'perSpell', 1],
  ]);
});

test('the term strip counts what was sent on each day and names the rounds to come', async () => {
  const term = (await ada.get('/api/v1/courses/1/term').expect(200)).body as TermAnswer;
  expect(term.days).toHaveLength(110);
  expect(term.days.filter((d) => d.sent > 0)).toEqual([{ date: '2026-09-05', sent: 3, attention: 0 }]);
  expect(term.coming[0]).toEqual({ at: at('2026-09-07T09:30'), rules: ['Away'] });
});

test('a rule that cannot run has no round to come on the term strip', async () => {
  const em = unguarded(stage.orm);
  const { document } = await em.findOneOrFail(RuleRow, { key: 'away' });
  const when = { measure: 'submitted', item: 'gone', is: 'equals', value: false };
  await em.nativeUpdate(RuleRow, { key: 'away' }, { document: { ...document, when } });
  expect(((await ada.get('/api/v1/courses/1/term').expect(200)).body as TermAnswer).coming).toEqual([]);
});
