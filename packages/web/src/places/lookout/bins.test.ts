import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { binsOf, brushOfBins, upperValue, withEndMoved, type Numeric } from './bins.ts';

/** Whole numbers 0 to 6, a bin each; and shares in bins of five. */
const DAYS = { kind: 'numbers', edges: [0, 1, 2, 3, 4, 5, 6, 7], counts: [1, 0, 2, 3, 0, 0, 1] } as unknown as Numeric;
const SHARES = { kind: 'numbers', edges: [0, 5, 10, 15, 20], counts: [1, 2, 3, 4] } as unknown as Numeric;

describe('a brush on a column', () => {
  test.each<[string, Numeric, Parameters<typeof binsOf>[1], readonly [number, number]]>([
    ['is everything where there is none', DAYS, null, [0, 6]],
    ['is everything where it is on something else', DAYS, { kind: 'unknown' }, [0, 6]],
    ['of whole days takes in its upper day', DAYS, { kind: 'range', low: 2, high: 4 }, [2, 4]],
    ['may be open below', DAYS, { kind: 'range', low: null, high: 3 }, [0, 3]],
    ['may be open above', DAYS, { kind: 'range', low: 5, high: null }, [5, 6]],
    ['ends at its upper bound where values are not whole', SHARES, { kind: 'range', low: 5, high: 15 }, [1, 2]],
    ['that begins inside a bin takes that bin in', SHARES, { kind: 'range', low: 7, high: 12 }, [1, 2]],
    ['below all there is begins with the first', DAYS, { kind: 'range', low: -9, high: 1 }, [0, 1]],
    ['above all there is ends with the last', DAYS, { kind: 'range', low: 3, high: 99 }, [3, 6]],
    ['wholly above all there is stays on the last', DAYS, { kind: 'range', low: 50, high: null }, [6, 6]],
  ])('%s', (_case, d, brush, bins) => {
    expect(binsOf(d, brush)).toEqual(bins);
  });

  test('comes back from its bins as it was drawn', () => {
    for (const d of [DAYS, SHARES]) {
      const last = d.edges.length - 2;
      fc.assert(
        fc.property(fc.nat(last), fc.nat(last), (a, b) => {
          const [from, to] = [Math.min(a, b), Math.max(a, b)];
          expect(binsOf(d, brushOfBins(d, from, to))).toEqual([from, to]);
        }),
        { seed: 5, numRuns: 60 },
      );
    }
  });

  test('of one value is that very value, the first and the last too, and one over all there is stays a brush', () => {
    expect(brushOfBins(DAYS, 0, 0)).toEqual({ kind: 'range', low: 0, high: 0 });
    expect(brushOfBins(DAYS, 6, 6)).toEqual({ kind: 'range', low: 6, high: 6 });
    expect(brushOfBins(DAYS, 0, 6)).toEqual({ kind: 'range', low: 0, high: 6 });
    expect(brushOfBins(SHARES, 0, 0)).toEqual({ kind: 'range', low: null, high: 5 });
  });

  test('moves an end by single values, as far as the other end and all there is', () => {
    const four = { kind: 'range', low: 2, high: 4 } as const;
    expect(withEndMoved(DAYS, four, 'low', 1)).toEqual({ kind: 'range', low: 3, high: 4 });
    expect(withEndMoved(DAYS, four, 'low', 9)).toEqual({ kind: 'range', low: 4, high: 4 });
    expect(withEndMoved(DAYS, four, 'high', -9)).toEqual({ kind: 'range', low: 2, high: 2 });
    expect(withEndMoved(DAYS, { kind: 'range', low: 0, high: 1 }, 'high', -1)).toEqual({
      kind: 'range',
      low: 0,
      high: 0,
    });
    // Of bins of five the values between them are reached as well.
    expect(withEndMoved(SHARES, null, 'high', -1)).toEqual({ kind: 'range', low: null, high: 19 });
    expect(withEndMoved(SHARES, null, 'low', -Infinity)).toEqual({ kind: 'range', low: 0, high: 20 });
  });

  test('stays open at the end that was not moved: who comes to lie beyond it is meant', () => {
    expect(withEndMoved(DAYS, null, 'low', 1)).toEqual({ kind: 'range', low: 1, high: null });
    expect(withEndMoved(DAYS, null, 'high', -2)).toEqual({ kind: 'range', low: null, high: 4 });
    expect(withEndMoved(DAYS, { kind: 'range', low: 1, high: 5 }, 'high', 1)).toEqual({
      kind: 'range',
      low: 1,
      high: null,
    });
    expect(withEndMoved(DAYS, { kind: 'range', low: 5, high: null }, 'low', 9)).toEqual({
      kind: 'range',
      low: 6,
      high: 6,
    });
  });

  test('its handle tells the greatest value that it takes in', () => {
    expect(brushOfBins(DAYS, 0, 3)).toEqual({ kind: 'range', low: null, high: 3 });
    expect(upperValue(DAYS, 3)).toBe(3);
    expect(upperValue(SHARES, 1)).toBe(10);
  });
});
