/** A number of a rule has one range: what the parse takes, a field of it takes, and a drag cannot leave. */
import { describe, expect, test } from '@jest/globals';
import { factsOf, item, person, ruleOf } from '../testing/build.ts';
import { CATALOGUE } from '../measures/catalogue/catalogue.ts';
import { rangeOf } from '../measures/values/range.ts';
import { outOfRange } from '../problem/range.ts';
import { numbersOf, withNumbers } from './numbers.ts';
import { parseRule } from './rule.ts';
import { ruleDocument } from './document.ts';

const { course } = factsOf({ people: [person('p1')], items: [item('q1'), item('q2')] });
const rule = ruleOf({
  when: {
    all: [
      { measure: 'daysSinceVisit', is: '>=', value: 5 },
      { measure: 'gradeVsClass', item: 'q1', is: '<=', value: -10 },
      { measure: 'lowScores', than: 60, is: '>=', value: 2 },
      { measure: 'visits', window: { last: { days: 14 } }, is: '<', value: 3 },
      { measure: 'gradeChange', days: 21, is: '<=', value: -8 },
      { measure: 'dueSoon', hours: 48, is: '>=', value: 1 },
      { measure: 'dueSoon', days: 2, is: '>=', value: 1 },
    ],
  },
  repeat: { perSpell: 2, perTerm: 5, gap: { days: 3 } },
  steps: [
    { after: { days: 0 }, deliver: 'send', to: ['student'], wording: 'w' },
    { after: { days: 4 }, deliver: 'send', to: ['student'], wording: 'w' },
  ],
});

const takes = (path: string, n: number): boolean =>
  parseRule(ruleDocument(withNumbers(rule, course, new Map([[path, n]])), course.timeZone)).ok;

describe('numbers of a rule', () => {
  test('are all there, in the order of the sentence', () => {
    expect(numbersOf(rule, course).map((n) => [n.path.replace('when.all', ''), n.value])).toEqual([
      ['[0].value', 5],
      ['[1].value', -10],
      ['[2].value', 2],
      ['[2].than', 60],
      ['[3].value', 3],
      ['[3].window.last.days', 14],
      ['[4].value', -8],
      ['[4].days', 21],
      ['[5].value', 1],
      ['[5].hours', 48],
      ['[6].value', 1],
      ['[6].days', 2],
      ['repeat.perSpell', 2],
      ['repeat.perTerm', 5],
      ['repeat.gap.days', 3],
      ['steps[1].after.days', 4],
    ]);
  });

  test.each(numbersOf(rule, course))('$path: the parse takes exactly what its range holds', ({ path, range }) => {
    const ends = [range.min, range.max].flatMap((n) => (n === null ? [] : [n - 1, n - 0.5, n, n + 0.5, n + 1]));
    for (const n of [...ends, 1, 2.5, 40, 4000, -4]) {
      expect([path, n, takes(path, n)]).toEqual([path, n, outOfRange(n, range) === null]);
    }
  });

  test('what is beyond a range is said at its place, in words', () => {
    const far = parseRule(
      ruleDocument(withNumbers(rule, course, new Map([['when.all[2].than', 1001]])), course.timeZone),
    );
    expect(far.ok ? [] : far.problems.map((p) => [p.path, p.message])).toEqual([['when.all[2].than', 'At most 1,000']]);
  });

  test('every measure that is compared with numbers has a range, and only those', () => {
    const without = Object.values(CATALOGUE).filter((m) => rangeOf(m) === null);
    expect(without.map((m) => m.name)).toEqual(['submitted', 'completed', 'field']);
  });
});
