// Runs on PostgreSQL too.
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import type { StudentAnswer, TodayAnswer } from '@zest-bell/core/exchange';
import { runDueRounds } from '../../rounds/deciding/scheduler.ts';
import { openSmtp, type TestSmtp } from '../../testing/smtp.ts';
import { at, COURSE, openStage, type Agent, type TestStage } from '../../testing/stage.ts';
import { PersonRow } from '../../course/entity.ts';
import { unguarded } from '../../testing/unguarded.ts';

let stage: TestStage;
let smtp: TestSmtp;
let ada: Agent;
beforeEach(async () => {
  smtp = await openSmtp();
  const people = [COURSE.people[0]!, COURSE.people[3]!];
  stage = await openStage({ now: '2026-09-04T12:00', smtp: smtp.url, course: { people } });
  ada = await stage.signIn();
  stage.clock.set(at('2026-09-05T09:30'));
  await runDueRounds(stage.services);
  await stage.dispatcher.drain();
});
afterEach(async () => {
  await stage.close();
  await smtp.close();
});

const student = async () => (await ada.get('/api/v1/courses/1/students/p1').expect(200)).body as StudentAnswer;
const today = async () => (await ada.get('/api/v1/courses/1/today').expect(200)).body as TodayAnswer;

test('a student’s page has where they stand, every nudge, and the act by which they came back', async () => {
  stage.clock.set(at('2026-09-07T12:00'));
  await stage.tell([{ id: 'v', person: 'p1', kind: 'visit', at: '2026-09-07T10:00:00-04:00' }]);
  const answer = await student();
  expect(answer.facts[0]).toEqual({
    title: 'Days since the last visit',
    value: '0 days',
    fact: 'last visit Mon Sep 7, 10:00 AM',
    among: null,
  });
  expect(answer.lines).toMatchObject([
    { kind: 'return', at: at('2026-09-07T10:00'), nudge: 1, what: 'visited the course' },
    { kind: 'nudge', at: at('2026-09-05T09:30'), nudge: 1, ruleName: 'Away', state: 'sent' },
  ]);
  expect((await today()).returned).toEqual([
    { student: 'p1', name: 'P1 Lind', at: at('2026-09-07T10:00'), nudge: 1, what: 'visited the course' },
  ]);
});

test('a student’s page has their story, and why each rule holds or not, with what limits say', async () => {
  const answer = await student();
  expect(answer.rules).toMatchObject([
    {
      rule: 'away',
      name: 'Away',
      status: 'on',
      standing: { inAudience: true, verdict: true, step: 0, refusals: ['perSpell'] },
    },
  ]);
  expect(answer.rules[0]!.spells.at(-1)).toMatchObject({ to: null });
  expect(answer.story).toMatchObject({ acts: [], grades: [], items: [{ item: 'q1', state: 'open' }] });
  stage.clock.set(at('2026-09-07T12:00'));
  await stage.tell([{ id: 'v', person: 'p1', kind: 'visit', at: '2026-09-07T10:00:00-04:00' }]);
  const later = await student();
  expect(later.rules[0]!.standing).toMatchObject({ verdict: false, since: null, evidence: [{ verdict: false }] });
  expect(later.story.last.visit).toBe(at('2026-09-07T10:00'));
});

test('the mark of a bounce stands on Today and on the page until the instructor says that the address works', async () => {
  await unguarded(stage.orm).nativeUpdate(PersonRow, { key: 'p1' }, { bouncedAt: at('2026-09-05T10:00') });
  expect((await student()).bouncedAt).toBe(at('2026-09-05T10:00'));
  expect((await today()).bounced).toEqual([{ student: 'p1', name: 'P1 Lind', at: at('2026-09-05T10:00') }]);
  await ada.post('/api/v1/courses/1/students/p1/address-works').expect(204);
  expect((await student()).bouncedAt).toBeNull();
  expect((await today()).bounced).toEqual([]);
});

test('nobody but a student of the course has one', async () => {
  await ada.get('/api/v1/courses/1/students/ada').expect(404);
  await ada.get('/api/v1/courses/1/students/nobody').expect(404);
});
