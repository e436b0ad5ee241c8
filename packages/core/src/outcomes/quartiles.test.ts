import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import jstat from 'jstat';
import { runs } from '../testing/runs.ts';
import { quantileOf, quartilesOf } from './quartiles.ts';

/** Reference: jStat’s quantiles with both parameters 1, which is Hyndman and Fan’s type 7. */
test('quartiles are those of a statistics library', () => {
  fc.assert(
    fc.property(fc.array(fc.integer({ min: 0, max: 100 }), { minLength: 2, maxLength: 40 }), (numbers) => {
      const sorted = numbers.toSorted((a, b) => a - b);
      const [q1, median, q3] = jstat.quantiles(sorted, [0.25, 0.5, 0.75], 1, 1);
      const found = quartilesOf(sorted)!;
      expect(found.q1).toBeCloseTo(q1!, 9);
      expect(found.median).toBeCloseTo(median!, 9);
      expect(found.q3).toBeCloseTo(q3!, 9);
    }),
    runs(32, 100),
  );
  expect(quartilesOf([])).toBeNull();
  expect(quantileOf([], 0.5)).toBeNaN();
});
