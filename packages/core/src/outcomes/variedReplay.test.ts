import { describe, expect, test } from '@jest/globals';
import { numberFrom } from '../problem/range.ts';
import { runWhole } from '../time/inParts.ts';
import { numbersOf } from '../rules/numbers.ts';
import { at, factsOf, person, ruleOf } from '../testing/build.ts';
import { replayedInParts } from './replayed.ts';
import { valuesToTry, variedReplayInParts, type VariedReplay } from './variedReplay.ts';

const facts = factsOf({
  people: ['p1', 'p2'].map((id) => person(id)),
  events: [
    ['p1', 'visit', '2026-09-01T14:00'],
    ['p1', 'visit', '2026-09-10T14:00'],
  ],
});
const span = { until: at('2026-09-20T00:00') };
const rule = ruleOf();
const other = ruleOf({ id: 'other', when: { measure: 'daysSinceVisit', is: '>=', value: 2 } });

describe('one number varied', () => {
  test('gives what a replay with each value would give, each as soon as it is known, of the rule alone', () => {
    const told: VariedReplay[] = [];
    const varying = { rules: [other, rule], rule, path: 'when.value', values: [3, 9, 90] };
    const seen = runWhole(variedReplayInParts(varying, facts, span, (one) => told.push(one)));
    expect(told).toEqual(seen);
    for (const { value, ...figures } of seen) {
      const alone = ruleOf({ when: { measure: 'daysSinceVisit', is: '>=', value } });
      const { nudges, reached, notice } = runWhole(replayedInParts([alone], facts, span));
      expect(figures).toEqual({ nudges, reached, notice: notice?.median ?? null });
    }
    expect(seen.map((s) => [s.nudges, s.reached])).toEqual([
      [3, 2],
      // p1 is nine days away from Sep 19 on, and the next round comes after the end.
      [1, 1],
      [0, 0],
    ]);
  });

  test('says how much of all values is done', () => {
    const work = variedReplayInParts({ rules: [rule], rule, path: 'when.value', values: [3, 5] }, facts, span);
    const shares: number[] = [];
    for (let part = work.next(); !part.done; part = work.next()) if (part.value !== undefined) shares.push(part.value);
    expect(shares).toEqual(shares.toSorted((a, b) => a - b));
    expect(shares.at(-1)).toBe(1);
    expect(shares).toContain(0.5);
  });
});

describe('the values that are tried', () => {
  const number = numbersOf(rule, facts.course)[0]!;
  test('of days go from 3 to 14, or from as few as asked', () => {
    expect(valuesToTry(number)).toEqual([3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14]);
    expect(valuesToTry(number, 1)[0]).toBe(1);
  });
  test('stand around the number where it lies elsewhere, within its bounds', () => {
    expect(valuesToTry({ ...number, value: 20 })).toEqual([14, 15, 16, 17, 18, 19, 20, 21, 22, 23, 24, 25, 26]);
    expect(valuesToTry({ value: 10, unit: 'percent', range: numberFrom(0, 25) })).toEqual([0, 5, 10, 15, 20, 25]);
    expect(valuesToTry({ value: 24, unit: 'hours', range: numberFrom(null, null) })[0]).toBe(-48);
  });
});
