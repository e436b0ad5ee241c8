import { describe, expect, test } from '@jest/globals';
import { intoRange, numberFrom, outOfRange, wholeFrom } from './range.ts';
import { numberIn } from './rangeSchema.ts';

const days = wholeFrom(1, 3660);
const below = numberFrom(null, 100);

describe('a range', () => {
  test('says why a number is not of it', () => {
    expect([1, 3660, 0, 3661, 2.5, NaN, Infinity].map((n) => outOfRange(n, days))).toEqual([
      ...[null, null, 'At least 1', 'At most 3,660', 'Type a whole number', 'Type a number', 'Type a number'],
    ]);
    expect([-1e9, 100, 100.5].map((n) => outOfRange(n, below))).toEqual([null, null, 'At most 100']);
  });

  test('is its schema: one takes what the other takes, and says the same', () => {
    for (const range of [days, below]) {
      for (const n of [-5, 0, 0.5, 1, 99, 100, 100.5, 3660, 3661]) {
        const parsed = numberIn(range).safeParse(n);
        expect([n, parsed.success ? null : parsed.error.issues[0]!.message]).toEqual([n, outOfRange(n, range)]);
      }
    }
  });

  test('pulls a dragged number to its nearest end', () => {
    expect([-3, 2.6, 9999].map((n) => intoRange(n, days))).toEqual([1, 3, 3660]);
    expect([-3.5, 120].map((n) => intoRange(n, below))).toEqual([-3.5, 100]);
  });
});
