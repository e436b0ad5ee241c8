/** Two terms side by side. What is chance is asked of published intervals (`proportion.ts`). */
import { describe, expect, test } from '@jest/globals';
import { makeCourse } from '../course/course.ts';
import { wilson } from '../outcomes/proportion.ts';
import { courseOf, ruleOf } from '../testing/build.ts';
import { compareTerms, rangesOverlap, type ReportedRule, type ReportedTerm } from './compare.ts';

const ran = (
  rule: string | null,
  more: { returned?: number; of?: number; found?: number; missed?: number } = {},
): ReportedRule => {
  const { returned = 0, of = 0, found = 0, missed = 0 } = more;
  return {
    rule,
    name: rule ?? 'Written by hand',
    rounds: 10,
    result: {
      sent: of,
      open: 0,
      openBack: 0,
      openReplied: 0,
      returns: of === 0 ? null : wilson(returned, of),
      replies: wilson(0, of),
    },
    reached: of,
    firstDay: of === 0 ? null : 12,
    heldBack: [],
    hindsight: rule === null ? null : { rule, counts: { found, missed, needless: 0, leftAlone: 0 }, other: null },
  };
};
const term = (
  course: ReportedTerm['course'],
  rules: ReportedTerm['rules'],
  log: readonly ReportedRule[],
): ReportedTerm => ({
  course,
  rules,
  report: { at: 0, students: 10, known: 10, worried: 4, missedByAll: 0, rules: log, texts: [], changes: [] },
  wordingName: (id) => `The text ${id}`,
});
const fall = courseOf();
const spring = makeCourse({
  ...fall,
  code: 'NAV 121',
  start: '2027-01-11',
  end: '2027-04-30',
  settings: { quietHours: null, budget: { count: 1, days: 7 } },
});
const away = (value: number, more: object = {}) =>
  ruleOf({ id: 'away', when: { measure: 'daysSinceVisit', is: '>=', value }, ...more });

describe('two terms', () => {
  test('have the rules of one origin side by side, and the others by themselves', () => {
    const here = term(fall, [away(5), ruleOf({ id: 'own' })], [ran('own'), ran('away'), ran(null)]);
    const other = term(spring, [away(5)], [ran('away'), ran('gone')]);
    const { pairs, alone } = compareTerms(here, other, [
      ['away', 'away'],
      ['never', 'away'],
    ]);
    expect(pairs.map((p) => [p.here.rule, p.other.rule])).toEqual([['away', 'away']]);
    expect([alone.here, alone.other].map((all) => all.map((r) => r.rule))).toEqual([['own', null], ['gone']]);
  });

  test('differ in what somebody changed, and not in dates that were moved', () => {
    const moved = away(7, {
      rhythm: { start: '2027-01-11T09:30', rrule: 'FREQ=DAILY' },
      status: 'paused',
      note: 'Old',
    });
    const here = term(fall, [away(5)], [ran('away')]);
    const { pairs, limits } = compareTerms(here, term(spring, [moved], [ran('away')]), [['away', 'away']]);
    expect(pairs[0]!.differences).toEqual([
      { part: 'Who', here: 'have not visited the course for 5 days', other: 'have not visited the course for 7 days' },
    ]);
    expect(limits).toMatchObject([{ part: 'Message budget', other: '1 nudge in 7 days' }]);
    expect(compareTerms(here, here, [['away', 'away']])).toMatchObject({ limits: [], pairs: [{ differences: [] }] });
  });

  test('say where chance alone could have made a difference, and nothing where there is nothing to compare', () => {
    const of = (returned: number, other: number) =>
      compareTerms(
        term(fall, [away(5)], [ran('away', { returned, of: 80, found: 3, missed: 1 })]),
        term(spring, [away(5)], [ran('away', { returned: other, of: 80 })]),
        [['away', 'away']],
      ).pairs[0]!.shares.map((s) => [s.what, s.couldBeChance]);
    // Wilson's 95% ranges, from memory of the formula: 60 of 80 is 64.5% to 83.2%, 52 of 80 is 54.1% to 74.5%, 20 of 80 is 16.8% to 35.5%.
    expect(of(60, 52)).toEqual([
      ['returns', true],
      ['replies', true],
    ]);
    expect(of(60, 20)[0]).toEqual(['returns', false]);
    expect([
      rangesOverlap({ low: 0, high: 0.5 }, { low: 0.5, high: 1 }),
      rangesOverlap({ low: 0, high: 0.4 }, { low: 0.5, high: 1 }),
    ]).toEqual([true, false]);
  });
});
