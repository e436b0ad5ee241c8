import { describe, expect, test } from '@jest/globals';
import { factsOf, person, ruleOf, at } from '../../testing/build.ts';
import { evidenceOf } from './decision.ts';
import { decide } from './decide.ts';
import { DEFAULT_GUARDS, parseCourseLimits } from './courseLimits.ts';
import { NudgeLog } from './log.ts';
import { withBudget } from '../whatIf/otherBudget.ts';

const limits = {
  settings: { quietHours: { from: '21:00', to: '07:00' }, budget: { count: 2, days: 7 } },
  breaks: [{ from: '2026-10-10', to: '2026-10-10', name: 'Fall break' }],
  marks: { mastery: 80 },
  guards: { askAbove: 0.5, staleHours: 48 },
};
const problems = (draft: object) => {
  const parsed = parseCourseLimits({ ...limits, ...draft });
  return parsed.ok ? [] : parsed.problems.map((p) => `${p.path}: ${p.message}`);
};
const guards = (more: object) => problems({ guards: { ...limits.guards, ...more } });
const named = (n: number) => Object.fromEntries(Array.from({ length: n }, (_, i) => [`mark ${i}`, i]));

describe('the limits of a course', () => {
  test('are read as they are, and what is left out is no limit', () => {
    expect(parseCourseLimits(limits)).toEqual({
      ok: true,
      value: {
        ...limits,
        settings: {
          quietHours: { from: '21:00', to: '07:00', days: [] },
          budget: { ...limits.settings.budget, strict: false },
        },
      },
    });
    expect(parseCourseLimits({ ...limits, settings: {} })).toMatchObject({
      value: { settings: { quietHours: null, budget: null } },
    });
    expect(parseCourseLimits({ ...limits, settings: { quietHours: null, budget: null } })).toMatchObject({ ok: true });
    expect(DEFAULT_GUARDS).toEqual({ askAbove: 0.5, staleHours: null });
  });

  test('a break ends on its first day at the earliest, and lasts a year at most', () => {
    const breaks = (from: string, to: string) => problems({ breaks: [{ from, to }] });
    expect(breaks('2026-10-10', '2026-10-09')).toEqual([
      'breaks[0].to: The break ends before it begins. Choose a later last day',
    ]);
    // 366 days, both included.
    expect(breaks('2026-10-10', '2027-10-10')).toEqual([]);
    expect(breaks('2026-10-10', '2027-10-11')).toEqual(['breaks[0].to: A break lasts a year at most']);
    const many = (n: number) => problems({ breaks: Array.from({ length: n }, () => limits.breaks[0]) });
    expect([many(0), many(60)]).toEqual([[], []]);
    expect(many(61)).toHaveLength(1);
  });

  test('marks have names of their own, and there are fifty at most', () => {
    expect([problems({ marks: {} }), problems({ marks: named(50) })]).toEqual([[], []]);
    expect(problems({ marks: named(51) })).toEqual(['marks: At most 50 named scores']);
    expect(problems({ marks: { '  ': 80 } })).toHaveLength(1);
    expect(problems({ marks: { ['m'.repeat(40)]: 80 } })).toEqual([]);
    expect(problems({ marks: { ['m'.repeat(41)]: 80 } })).toHaveLength(1);
  });

  test('guards ask from more than nothing up to the whole class, and wait an hour at least', () => {
    expect([guards({ askAbove: 0.01 }), guards({ askAbove: 1 })]).toEqual([[], []]);
    expect(guards({ askAbove: 0 })).toEqual(['guards.askAbove: Type at least 1']);
    expect(guards({ askAbove: 1.01 })).toEqual(['guards.askAbove: Type at most 100']);
    expect([guards({ staleHours: 1 }), guards({ staleHours: 2000 }), guards({ staleHours: null })]).toEqual([
      [],
      [],
      [],
    ]);
    expect(guards({ staleHours: 0 })).toEqual(['guards.staleHours: At least 1']);
    expect(guards({ staleHours: 2001 })).toHaveLength(1);
    expect(guards({ staleHours: 1.5 })).toHaveLength(1);
    expect(guards({ other: 1 })).toEqual(['guards.other: “other” is not known here']);
  });

  test('a budget is some messages, or none, in a day or more', () => {
    const budget = (count: number, days: number) => problems({ settings: { budget: { count, days } } });
    expect([budget(0, 1), budget(1000, 3660)]).toEqual([[], []]);
    for (const [count, days] of [
      [-1, 7],
      [1001, 7],
      [1, 0],
      [1, 3661],
    ] as const)
      expect(budget(count, days)).toHaveLength(1);
  });

  test('quiet hours have both ends or none, and leave a moment of the week', () => {
    const quiet = (quietHours: object) => problems({ settings: { quietHours } });
    expect([quiet({ from: '21:00', to: '07:00' }), quiet({ days: ['SA', 'SU'] })]).toEqual([[], []]);
    expect(quiet({ from: null, to: null, days: ['MO'] })).toEqual([]);
    const both = 'settings.quietHours.to: Choose when quiet hours begin and when they end';
    expect([quiet({ from: '21:00' }), quiet({ to: '07:00' }), quiet({ from: '21:00', to: null })]).toEqual([
      [both],
      [both],
      [both],
    ]);
    expect(quiet({ from: '24:00', to: '07:00' })).toEqual(['settings.quietHours.from: Type a time such as 21:00']);
    expect(quiet({ days: ['MO', 'TU', 'WE', 'TH', 'FR', 'SA', 'SU'] })).toEqual([
      'settings.quietHours.days: Leave at least one moment of the week open, so that mail can leave',
    ]);
    expect(quiet({ days: ['MO', 'TU', 'WE', 'TH', 'FR', 'SA', 'SA'] })).toEqual([]);
  });
});

test('another budget is tried on the same facts', () => {
  const facts = factsOf({ people: [person('p1')], settings: { budget: { count: 0, days: 7 } } });
  const round = at('2026-09-20T09:30');
  const outcome = (of: typeof facts | ReturnType<typeof withBudget>) =>
    decide([ruleOf()], of, new NudgeLog(), round).map((d) => [
      ...[d.outcome, d.reason, evidenceOf(d.student, ruleOf(), of, round)[0]!.value],
    ]);
  expect(outcome(facts)).toEqual([['withheld', 'budget', 20]]);
  expect(outcome(withBudget(facts, { count: 1, days: 7 }))).toEqual([['sent', null, 20]]);
  expect(outcome(withBudget(facts, null))).toEqual([['sent', null, 20]]);
  expect(outcome(facts)).toEqual([['withheld', 'budget', 20]]);
  const tried = withBudget(facts, null);
  expect(tried.course).toEqual({ ...facts.course, settings: { ...facts.course.settings, budget: null } });
  expect(tried.version(0)).toBe(facts.version(0));
  expect(tried.timeline(0, { measure: 'missing' })).toBe(facts.timeline(0, { measure: 'missing' }));
});
