import { describe, expect, test } from '@jest/globals';
import type { Condition } from '../conditions/condition.ts';
import { runWhole } from '../time/inParts.ts';
import { at, factsOf, item, person, ruleOf } from '../testing/build.ts';
import { hindsightInParts, type HindsightSpan } from './hindsight.ts';

/**
 * Worked out by hand. The rule looks on Mondays at 9:30 from Sep 7 for five days of absence; anyone who ends under 60 is worried
 * about. p1 is away from Sep 6 (found Sep 14) and fails; p2 is away early (found Sep 7, never came) and fails; p3 comes all the
 * time and fails; p4 is away as p1 is and passes; p5 comes and passes; p6 has no grade; p7 enrolls on Oct 1 and fails, found in
 * their own story alone.
 */
const comes = (id: string, days: readonly string[]) => days.map((d) => [id, 'visit', `2026-${d}T10:00`] as const);
const weekly = ['09-03', '09-06', '09-10', '09-13', '09-17', '09-20', '09-24', '09-27'];
const facts = factsOf({
  people: [
    ...['p1', 'p2', 'p3', 'p4', 'p5', 'p6'].map((id) => person(id)),
    person('p7', { enrolledAt: at('2026-10-01T00:00') }),
    person('gone', { active: false }),
    person('ada', { role: 'instructor' }),
  ],
  items: [item('q1'), item('q2')],
  events: [
    ...comes('p1', ['09-03', '09-06']),
    ...comes('p3', weekly),
    ...comes('p4', ['09-03', '09-06']),
    ...comes('p5', weekly),
    ...comes('p6', weekly),
  ],
  grades: [
    ...['p1', 'p2', 'p3', 'p7'].map((id) => [id, 'q1', 10, '2026-10-12T08:00'] as const),
    ...['p4', 'p5'].map((id) => [id, 'q1', 18, '2026-10-12T08:00'] as const),
  ],
});
const rule = ruleOf({
  rhythm: { start: '2026-09-07T09:30', rrule: 'FREQ=WEEKLY;BYDAY=MO', until: '2026-09-28' },
  status: 'draft',
});
const fails: Condition = { measure: 'courseGrade', is: '<', value: 60 };
const read = (span: Partial<HindsightSpan> = {}, of = rule, outcome = fails) =>
  runWhole(hindsightInParts(of, outcome, facts, { at: at('2026-10-20T00:00'), ...span }));

describe('[O4] how well a rule finds those whom one worries about', () => {
  test('counts found, missed, needlessly found and rightly left alone; the unknown apart', () => {
    const seen = read();
    expect(seen.unknown).toBe(1);
    expect(seen.counts).toEqual({ found: 2, missed: 2, needless: 1, leftAlone: 1 });
    expect(seen.students.map((s) => [s.student, s.outcome, s.found, s.leadDays])).toEqual([
      ['p1', true, at('2026-09-14T09:30'), 35],
      ['p2', true, at('2026-09-07T09:30'), 42],
      ['p3', true, null, null],
      ['p4', false, at('2026-09-14T09:30'), 35],
      ['p5', false, null, null],
      ['p7', true, null, null],
    ]);
  });

  test('shares have Wilson’s interval, and lead days their quartiles over those who are found and have the outcome', () => {
    const seen = read();
    expect(seen.shareFound).toMatchObject({ count: 2, of: 4 });
    // Wilson’s 95% interval of 2 of 4 is 15.0% to 85.0%: Newcombe (1998), method 3, from memory.
    expect(seen.shareFound!.low).toBeCloseTo(0.15, 3);
    expect(seen.shareRight).toMatchObject({ count: 2, of: 3 });
    expect(seen.leadDays).toMatchObject({ q1: 36.75, median: 38.5, q3: 40.25 });
  });

  test('rounds are bounded on both sides, both included, and never later than the outcome', () => {
    expect(read({ from: at('2026-09-14T09:30'), until: at('2026-09-14T09:30') }).students[1]!.found).toBe(
      at('2026-09-14T09:30'),
    );
    expect(read({ until: at('2026-09-06T00:00') }).counts).toEqual({ found: 0, missed: 4, needless: 0, leftAlone: 2 });
    expect(read({ at: at('2026-10-12T08:00'), until: at('2026-12-01T00:00') }).counts.found).toBe(2);
  });

  test('limits and status play no part; with nothing below the line there is no share', () => {
    expect(read({}, { ...rule, repeat: { ...rule.repeat, perTerm: 0 } }).counts.found).toBe(2);
    const nobody = read({}, rule, { measure: 'courseGrade', is: '<', value: 5 });
    expect(nobody).toMatchObject({ shareFound: null, leadDays: null, counts: { found: 0, missed: 0, needless: 3 } });
    expect(read({ until: at('2026-09-01T00:00') }).shareRight).toBeNull();
  });

  test('before the grades nothing is known of anybody, and who has not enrolled is not asked about', () => {
    const early = read({ at: at('2026-09-30T00:00') });
    expect(early.students).toEqual([]);
    expect(early.unknown).toBe(6);
  });
});
