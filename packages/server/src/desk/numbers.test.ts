/** The counts of docs/numbers.md, asked of every place that shows one, for one course: the same word is the same number everywhere. */
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { existsSync, readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import type {
  CameOfItAnswer,
  LogAnswer,
  OutcomesAnswer,
  PastRoundLine,
  RuleCard,
  StudentAnswer,
} from '@zest-bell/core/exchange';
import type { TextResult } from '@zest-bell/core/outcomes';
import type { TermReport } from '@zest-bell/core/term';
import { ReplyRow } from '../mail/replies/entity.ts';
import { runDueRounds } from '../rounds/deciding/scheduler.ts';
import { openSmtp, type TestSmtp } from '../testing/smtp.ts';
import { at, classOf, openStage, ruleOf, visit, type Agent, type TestStage } from '../testing/stage.ts';
import { unguarded } from '../testing/unguarded.ts';

const STUDENTS = Array.from({ length: 8 }, (_, i) => `s${i}`);
const course = '/api/v1/courses/1';

let stage: TestStage;
let smtp: TestSmtp;
let ada: Agent;
beforeEach(async () => {
  smtp = await openSmtp();
  const toOthers = { deliver: 'send', to: ['instructor'], wording: 'gentle' };
  stage = await openStage({
    now: '2026-09-04T12:00',
    smtp: smtp.url,
    course: { people: classOf(STUDENTS.length) },
    rules: [ruleOf(), ruleOf({ id: 'told', name: 'Told to me', steps: [toOthers] })],
  });
  ada = await stage.signIn();
  await roundAt('2026-09-05T09:30');
  // Three come back, one of them and another one reply; those who came back go quiet again.
  stage.clock.set(at('2026-09-07T11:00'));
  await stage.tell(['s0', 's1', 's2'].map((s) => visit(s, '2026-09-07T10:00')));
  stage.clock.set(at('2026-09-08T10:00'));
  const em = unguarded(stage.orm);
  const { lines } = await log('?rule=away');
  for (const student of ['s0', 's5'])
    em.create(ReplyRow, {
      course: 1,
      nudge: lines.find((l) => l.student === student)!.nudge,
      student,
      kind: 'reply',
      at: at('2026-09-08T09:00'),
      messageId: `<${student}@x.example>`,
      fromName: student,
      fromAddress: `${student}@saltmarsh.example`,
      subject: 'Re',
      text: 'I am back',
    });
  await em.flush();
  for (const day of ['12', '13', '14', '25']) await roundAt(`2026-09-${day}T09:30`);
});
afterEach(async () => {
  await stage.close();
  await smtp.close();
});

async function roundAt(when: string): Promise<void> {
  stage.clock.set(at(when));
  await runDueRounds(stage.services);
  await stage.dispatcher.drain();
}
const get = async <T>(path: string) => (await ada.get(`${course}${path}`).expect(200)).body as T;
const log = (query: string) => get<LogAnswer>(`/log${query}`);
const sum = (results: readonly TextResult[], of: (result: TextResult) => number) =>
  results.reduce((n, r) => n + of(r), 0);

async function everywhere() {
  const cards = await get<RuleCard[]>('/rules');
  const outcomes = await get<OutcomesAnswer>('/log/outcomes');
  const { lines } = await get<CameOfItAnswer>('/replay/outcomes?by=rule');
  const students = await Promise.all(STUDENTS.map((s) => get<StudentAnswer>(`/students/${s}`)));
  const told = await ada
    .post(`${course}/term/report`)
    .send({ outcome: { measure: 'daysSinceVisit', is: '>=', value: 14 } })
    .expect(200);
  const last = told.text.trim().split('\n').at(-1)!;
  const { answer: term } = JSON.parse(last) as { readonly answer: TermReport };
  return { cards, outcomes, lines, students: students.map((s) => s.outcome), pages: students, term };
}

test('“sent” is what left to students, on the list, on a page of outcomes, in the log, of each student, of the term', async () => {
  const { cards, outcomes, lines, students, term } = await everywhere();
  const { sentInAll } = cards.find((c) => c.rule.id === 'away')!;
  expect(sentInAll).toBeGreaterThan(STUDENTS.length);
  expect([
    outcomes.rules['away']!.sent,
    outcomes.all.sent,
    lines.find((l) => l.rule === 'away')!.result.sent,
    term.rules.find((r) => r.rule === 'away')!.result.sent,
    (await log('?rule=away')).counts.sent,
    sum(students, (r) => r.sent),
  ]).toEqual(Array(6).fill(sentInAll));
});

test('“alerts” go to others, and are no message that a student got', async () => {
  const { cards, outcomes, lines } = await everywhere();
  const { alertsInAll, sentInAll } = cards.find((c) => c.rule.id === 'told')!;
  expect(alertsInAll).toBeGreaterThan(0);
  expect((await log('?rule=told')).counts.sent).toBe(alertsInAll);
  expect([sentInAll, outcomes.rules['told'] ?? null, lines.find((l) => l.rule === 'told') ?? null]).toEqual([
    0,
    null,
    null,
  ]);
});

test('“came back” and “replied” are of nudges that are two weeks old, and one number everywhere', async () => {
  const { outcomes, lines, students, term } = await everywhere();
  const away = outcomes.rules['away']!;
  expect(away.returns!.count).toBe(3);
  expect(away.replies.count).toBe(2);
  expect(away.open).toBeGreaterThan(0);
  expect(lines.find((l) => l.rule === 'away')!.result).toEqual(away);
  expect(term.rules.find((r) => r.rule === 'away')!.result).toEqual(away);
  expect(outcomes.all).toEqual(away);
  expect([
    sum(students, (r) => r.returns?.count ?? 0),
    sum(students, (r) => r.returns?.of ?? 0),
    sum(students, (r) => r.replies.count),
    sum(students, (r) => r.open),
  ]).toEqual([away.returns!.count, away.returns!.of, away.replies.count, away.open]);
});

test('“students reached” and “rounds” are those of the log', async () => {
  const { pages, term } = await everywhere();
  const away = term.rules.find((r) => r.rule === 'away')!;
  const reached = pages.filter((p) => p.lines.some((l) => l.kind === 'nudge' && l.state === 'sent' && l.toStudent));
  expect(away.reached).toBe(reached.length);
  expect(away.rounds).toBe((await get<PastRoundLine[]>('/rules/away/rounds')).length);
});

test('every function that the page names is there, in the file that it names', () => {
  const root = fileURLToPath(new URL('../../../../', import.meta.url));
  const page = readFileSync(`${root}docs/numbers.md`, 'utf8');
  const named = [...page.matchAll(/`(\w+)` in \[[^\]]+\]\(\.\.\/([^)]+)\)/g)].map(([, name, file]) => [name!, file!]);
  expect(named.length).toBeGreaterThan(10);
  for (const [name, file] of named) {
    expect([file, existsSync(`${root}${file!}`)]).toEqual([file, true]);
    expect([name, new RegExp(`\\b${name!}\\b`).test(readFileSync(`${root}${file!}`, 'utf8'))]).toEqual([name, true]);
  }
});
