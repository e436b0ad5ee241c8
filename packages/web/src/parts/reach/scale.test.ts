import { describe, expect, test } from '@jest/globals';
import type { Dot } from '@zest-bell/core/rounds';
import { lineX, matchingSide, placeDots, scaleFor } from './scale.ts';

const dots = (values: readonly (number | null)[]): Dot[] =>
  values.map((value, i) => ({ student: `s${i}`, value, meets: 'no' }));

describe('a scale', () => {
  test('gives back the value that it placed', () => {
    const scale = scaleFor([0, 3, 11], 5, 'days', 520);
    for (let v = scale.low; v <= scale.high; v++) expect(scale.valueAt(scale.x(v))).toBe(v);
  });

  test('shows all percentages from 0 to 100', () => {
    expect(scaleFor([40, 90], 50, 'percent', 520)).toMatchObject({ low: 0, high: 100 });
  });

  test('does not let two students who never came press the class together', () => {
    const values = [...Array.from({ length: 40 }, (_, i) => i % 6), 56, 56];
    const scale = scaleFor(values, 5, 'days', 520);
    expect(scale).toMatchObject({ high: 14, clipped: true });
    expect(scale.x(56)).toBe(scale.x(14));
    // Its last number is at the end with a plus; none is printed right before it, on a phone either.
    const narrow = scaleFor(values, 5, 'days', 330);
    expect(narrow.x(narrow.high) - narrow.x(narrow.ticks.at(-1)!)).toBeGreaterThanOrEqual(30);
  });

  test('leaves room to drag beyond the largest value, and holds hours before and after the due instant', () => {
    expect(scaleFor([1, 2], 3, 'count', 520).high).toBeGreaterThan(4);
    expect(scaleFor([-30, 20], 48, 'hours', 520)).toMatchObject({ low: -48, high: 72 });
  });
});

describe('the line of a threshold', () => {
  const scale = scaleFor([0, 14], 5, 'days', 520);
  test.each([
    ['>=', 4, false],
    ['>=', 5, true],
    ['>', 5, false],
    ['>', 6, true],
    ['<=', 5, true],
    ['<', 5, false],
    ['equals', 5, true],
    ['equals', 6, false],
  ] as const)('%s 5 puts %d on its side: %s', (is, value, inside) => {
    const side = matchingSide(scale, is, 5)!;
    const x = scale.x(value);
    expect(x > side[0] && x < side[1]).toBe(inside);
  });

  test('stands on the value where values are not whole', () => {
    const percent = scaleFor([50], 50, 'percent', 520);
    expect(lineX(percent, '>=', 50)).toBe(percent.x(50));
  });
});

describe('dots', () => {
  test('are one a student whose value is known, each within the plot', () => {
    const scale = scaleFor([0, 0, 0, 7], 5, 'days', 520);
    const { placed } = placeDots(dots([0, 0, 0, 7, null]), scale, 148);
    expect(placed).toHaveLength(4);
    expect(new Set(placed.map((d) => `${d.x} ${d.y}`)).size).toBe(4);
    expect(placed.every((d) => d.y > 0 && d.y < 148 && d.x > 0 && d.x < 520)).toBe(true);
  });

  test('of two thousand students still fit', () => {
    const values = Array.from({ length: 2000 }, (_, i) => i % 9);
    const { placed, radius } = placeDots(dots(values), scaleFor(values, 5, 'days', 520), 148);
    expect(Math.min(...placed.map((d) => d.y))).toBeGreaterThan(0);
    expect(radius).toBeGreaterThanOrEqual(1.5);
  });

  test('that stand on one value as most of a class are a pile with a number, and the others keep their room', () => {
    const values = [...Array.from({ length: 32 }, () => 0), 3, 5, 5, 8, 9, 9, 9, 12, 13, 14];
    const { placed, radius, pile } = placeDots(dots(values), scaleFor(values, 5, 'days', 520), 148);
    expect(pile).toMatchObject({ value: 0, students: 32 });
    expect(placed).toHaveLength(10);
    expect(radius).toBeGreaterThan(5);
  });

  test('of a class that is spread over many values are no pile', () => {
    const values = Array.from({ length: 60 }, (_, i) => (i < 30 ? 0 : 1 + (i % 2)));
    expect(placeDots(dots(values), scaleFor(values, 5, 'days', 520), 148).pile).toBeNull();
  });
});
