/** Stretches at their bounds; time.test.ts holds their unions and intersections point by point. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { runs } from '../testing/runs.ts';
import {
  ALWAYS,
  appendStretch,
  contains,
  intersection,
  NEVER,
  placeFrom,
  stretch,
  stretchAt,
  union,
} from './stretches.ts';

describe('stretches at their bounds', () => {
  test('are empty where they would end before they start', () => {
    expect(stretch(1, 2)).toEqual([1, 2]);
    expect(stretch(2, 2)).toEqual([]);
    expect(stretch(3, 2)).toEqual([]);
    expect(NEVER).toEqual([]);
    expect(ALWAYS).toEqual([-Infinity, Infinity]);
  });

  test('are appended behind one another, merged where they touch, and never made longer by a part of themselves', () => {
    const into: number[] = [];
    for (const [a, b] of [
      [0, 0],
      [0, 5],
      [5, 7],
      [6, 6],
      [2, 3],
      [9, 12],
    ] as const)
      appendStretch(into, a, b);
    expect(into).toEqual([0, 7, 9, 12]);
  });

  test('join with nothing as themselves, and are read before their first', () => {
    const a = [1, 3, 5, 7];
    expect(union(a, NEVER)).toBe(a);
    expect(union(NEVER, a)).toBe(a);
    expect(intersection(a, NEVER)).toEqual([]);
    expect(intersection(NEVER, a)).toEqual([]);
    expect(intersection([0, 4], [4, 8])).toEqual([]);
    expect(union([0, 2, 6, 8], [2, 6])).toEqual([0, 8]);
    expect(contains(a, 0)).toBe(false);
    expect(stretchAt(a, 0)).toBeNull();
    expect(stretchAt(a, 1)).toEqual({ start: 1, end: 3 });
    expect(stretchAt(a, 4)).toBeNull();
    expect(stretchAt(a, 6)).toEqual({ start: 5, end: 7 });
    expect(stretchAt(NEVER, 6)).toBeNull();
  });
});

test('the place from which instants in order are no longer before another one', () => {
  const instants = fc.array(fc.integer({ min: 0, max: 30 }), { maxLength: 12 }).map((all) => all.sort((a, b) => a - b));
  fc.assert(
    fc.property(instants, fc.integer({ min: -1, max: 31 }), fc.nat(12), (all, t, from) => {
      const start = Math.min(from, all.length);
      const found = all.findIndex((at, i) => i >= start && at >= t);
      expect(placeFrom(all, t, start)).toBe(found < 0 ? all.length : found);
      expect(placeFrom(all, t)).toBe(all.filter((at) => at < t).length);
    }),
    runs(71, 400),
  );
});

test('what is nowhere or everywhere meets and joins as it should', () => {
  const some = [1, 3, 5, 8];
  expect([intersection(NEVER, some), intersection(some, NEVER)]).toEqual([[], []]);
  expect([intersection(ALWAYS, some), intersection(some, ALWAYS)]).toEqual([some, some]);
  expect([union(NEVER, some), union(some, NEVER)]).toEqual([some, some]);
  expect(union([1, 2, 3, 4], [2, 3])).toEqual([1, 4]);
  expect(union([1, 9], [2, 3, 4, 5])).toEqual([1, 9]);
  expect(intersection([1, 3], [3, 5])).toEqual([]);
});
