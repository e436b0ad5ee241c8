import { expect, test } from '@jest/globals';
import { runWhole } from '../time/inParts.ts';
import { at, factsOf, person, ruleOf } from '../testing/build.ts';
import { compareReplays, isWrittenTo, replayedInParts, replayedUntil } from './replayed.ts';

/**
 * Worked out by hand: p1 comes on Sep 1 at 2 PM (a spell from Sep 6, 2 PM) and on Sep 12; p2 never comes (a spell from Sep 5);
 * p3 comes every three days. The rule looks daily at 9:30 from Sep 5 to Sep 10, once a spell.
 */
const facts = factsOf({
  people: [person('p1'), person('p2'), person('p3'), person('ada', { role: 'instructor' })],
  events: [
    ['p1', 'visit', '2026-09-01T14:00'],
    ['p1', 'visit', '2026-09-12T14:00'],
    ...['01', '04', '07', '10', '13'].map((d) => ['p3', 'visit', `2026-09-${d}T10:00`] as const),
  ],
});
const LATER = { rhythm: { start: '2026-09-05T09:30', rrule: 'FREQ=DAILY', until: '2026-09-10' } };
const rule = ruleOf(LATER);
const told = (until: string, of = rule) => runWhole(replayedInParts([of], facts, { until: at(until) }));

test('a replay is told by day, by student and in totals', () => {
  const seen = told('2026-09-14T00:00');
  expect(seen.days.map((d) => [d.day, d.nudges, d.heldBack])).toEqual([
    ['2026-09-05', 1, 0],
    ['2026-09-06', 0, 1],
    ['2026-09-07', 1, 1],
    ['2026-09-08', 0, 2],
    ['2026-09-09', 0, 2],
    ['2026-09-10', 0, 2],
  ]);
  expect(seen).toMatchObject({
    audience: 3,
    nudges: 2,
    held: 0,
    heldBack: 8,
    reached: 2,
    busiest: { day: '2026-09-05', nudges: 1 },
    most: { student: 'p1', nudges: 1, students: 2 },
    // p1 waits from Sep 6, 2 PM to Sep 7, 9:30 AM: no whole day; so does p2 on Sep 5.
    notice: { low: 0, median: 0, high: 0 },
  });
  expect(seen.students.map((s) => s.student)).toEqual(['p1', 'p2']);
  expect(seen.students[0]!.spells).toEqual([
    { rule: 'away', from: at('2026-09-06T14:00'), to: at('2026-09-12T14:00') },
  ]);
  expect(seen.students[0]!.marks[1]).toMatchObject({ outcome: 'withheld', reason: 'perSpell' });
});

test('the most nudged one stands alone, or with all who got as many', () => {
  const twice = told('2026-09-14T00:00', ruleOf({ ...LATER, repeat: { perSpell: 2 } }));
  expect(twice.most).toEqual({ student: 'p1', nudges: 2, students: 2 });
  // By then p1 does not match yet.
  expect(told('2026-09-06T00:00').most).toEqual({ student: 'p2', nudges: 1, students: 1 });
});

test('nothing after its end is told; a rule that finds nobody has no totals', () => {
  expect(told('2026-09-06T00:00')).toMatchObject({ nudges: 1, heldBack: 0 });
  expect(told('2026-09-06T00:00').students[0]!.spells).toEqual([
    { rule: 'away', from: at('2026-09-05T00:00'), to: null },
  ]);
  const never = ruleOf({ when: { measure: 'daysSinceVisit', is: '>=', value: 90 } });
  expect(told('2026-09-14T00:00', never)).toMatchObject({
    days: [],
    students: [],
    busiest: null,
    most: null,
    notice: null,
  });
});

test('[R10] what a step holds stays held and counts as reached', () => {
  const asks = ruleOf({
    rhythm: { start: '2026-09-05T09:30', rrule: 'FREQ=DAILY', until: '2026-09-10' },
    steps: [{ deliver: 'hold', to: ['student'], wording: 'gentle' }],
  });
  expect(told('2026-09-14T00:00', asks)).toMatchObject({ nudges: 0, held: 2, reached: 2 });
});

test('two versions are compared: who is gained and lost, how many more, how much earlier', () => {
  const until = '2026-09-14T00:00';
  const six = ruleOf({ ...LATER, when: { measure: 'daysSinceVisit', is: '>=', value: 6 } });
  // p1 matches from Sep 7, 2 PM and p2 from Sep 6: nudged on Sep 8 and 6, a day later each.
  expect(compareReplays(told(until), told(until, six))).toEqual({
    more: 0,
    gained: [],
    lost: [],
    earlier: -1,
    alerts: 0,
  });
  const twelve = ruleOf({ ...LATER, when: { measure: 'daysSinceVisit', is: '>=', value: 12 } });
  expect(compareReplays(told(until), told(until, twelve))).toEqual({
    more: -2,
    gained: [],
    lost: ['p1', 'p2'],
    earlier: null,
    alerts: 0,
  });
  expect(compareReplays(told(until, twelve), told(until))).toMatchObject({ more: 2, gained: ['p1', 'p2'], lost: [] });
});

test('cut at an instant it reads as it would have been told then', () => {
  const whole = told('2026-09-14T00:00');
  for (const t of ['2026-09-05T12:00', '2026-09-06T20:00', '2026-09-08T09:30', '2026-09-13T00:00']) {
    expect(replayedUntil(whole, at(t), facts.course.calendar)).toEqual(told(t));
  }
  expect(replayedUntil(whole, at('2026-09-04T00:00'), facts.course.calendar)).toMatchObject({
    students: [],
    nudges: 0,
  });
});

test('[R11b] a nudge that goes to others alone is about the student and never counted as written to them', () => {
  const alerts = ruleOf({
    ...LATER,
    repeat: { perSpell: null },
    steps: [{ deliver: 'send', to: ['address:me@x.example'], wording: 'w' }],
  });
  const seen = told('2026-09-12T00:00', alerts);
  expect(seen).toMatchObject({ nudges: 0, held: 0, reached: 0, most: null, busiest: null, alerted: 2 });
  expect(seen.alerts).toBeGreaterThan(2);
  expect(seen.students.flatMap((s) => s.marks).every((m) => m.alert && !isWrittenTo(m))).toBe(true);
});
