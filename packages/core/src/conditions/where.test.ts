/** Where a comparison holds on a timeline, against the comparison itself asked at one instant after the other. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { changesOf, valueAt, type Timeline } from '../measures/values/timeline.ts';
import { contains, type Stretches } from '../time/stretches.ts';
import { HOUR } from '../time/instant.ts';
import { runs } from '../testing/runs.ts';
import { testOf, whereOf } from './compare.ts';
import type { Comparator, Leaf } from './condition.ts';

const NUMBERS: readonly Comparator[] = ['>=', '<=', '>', '<', 'equals', 'differs', 'empty', 'filled'];
const leaf = (is: Comparator, value: Leaf['value']): Leaf => ({ measure: 'field', name: 'x', is, value });

/** Sorted, apart from each other, none empty. */
function wellFormed(stretches: Stretches): boolean {
  for (let i = 1; i < stretches.length; i++) if (!(stretches[i - 1]! < stretches[i]!)) return false;
  return stretches.length % 2 === 0;
}

function agrees(line: Timeline, asked: Leaf, instants: readonly number[], begins: number): void {
  const where = whereOf(asked, {});
  const test = testOf(asked, {});
  const [yes, no] = [where(line, true), where(line, false)];
  expect([wellFormed(yes), wellFormed(no)]).toEqual([true, true]);
  for (const t of instants) {
    const verdict = t < begins ? null : test(valueAt(line, t));
    const found = contains(yes, t) ? true : contains(no, t) ? false : null;
    if (found !== verdict) throw new Error(`${JSON.stringify(asked)} at ${t}: ${found}, not ${verdict}`);
  }
}

describe('where a comparison holds', () => {
  const value = fc.constantFrom(null, true, false, 'Ada', 'ada lind', '2');
  const threshold = fc.oneof(
    fc.integer({ min: -2, max: 4 }),
    fc.constantFrom(0.5, 2.5, true, false, 'ada', '2', '2.50', 'ind'),
  );
  const comparator = fc.constantFrom<Comparator>(...NUMBERS, 'contains');

  test('on steps: at each step and between them', () => {
    fc.assert(
      fc.property(fc.array(value, { minLength: 1, maxLength: 12 }), threshold, comparator, (values, limit, is) => {
        const at = values.map((_, i) => 100 * (i + 1));
        const line: Timeline = { kind: 'steps', at, values };
        agrees(line, leaf(is, limit), [99, ...at, ...at.map((t) => t + 50), ...at.map((t) => t - 1)], 100);
      }),
      runs(50, 400),
    );
  });

  test('on numbers: at each step and between them, unknown ones too', () => {
    const number = fc.constantFrom(-2, -1, 0, 0.5, 1, 2, 2.5, 4, NaN);
    fc.assert(
      fc.property(fc.array(number, { minLength: 1, maxLength: 12 }), threshold, comparator, (numbers, limit, is) => {
        const at = numbers.map((_, i) => 100 * (i + 1));
        const line: Timeline = { kind: 'numbers', steps: numbers.flatMap((n, i) => [at[i]!, n]) };
        const asked = [99, ...at, ...at.map((t) => t + 50), ...at.map((t) => t - 1)];
        agrees(line, leaf(is, limit), asked, 100);
        for (const t of asked) {
          const number = numbers[at.filter((a) => a <= t).length - 1] ?? NaN;
          expect(valueAt(line, t)).toBe(Number.isNaN(number) ? null : number);
        }
        expect(changesOf(line)).toEqual(at);
      }),
      runs(50, 400),
    );
  });

  test('on hours that run down: to the millisecond around its edges', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: -400 * HOUR, max: 400 * HOUR }),
        fc.integer({ min: -400 * HOUR, max: 400 * HOUR }),
        fc.oneof(
          fc.integer({ min: -300, max: 300 }),
          fc.double({ min: -300, max: 300, noNaN: true }),
          fc.integer({ min: -300 * HOUR, max: 300 * HOUR }).map((ms) => ms / HOUR),
        ),
        fc.constantFrom(...NUMBERS),
        (due, from, hours, is) => {
          const edge = due - Math.round(hours * HOUR);
          const instants = [from, edge].flatMap((t) => [-3, -2, -1, 0, 1, 2, 3].map((ms) => t + ms));
          agrees({ kind: 'countdown', due, from }, leaf(is, hours), instants, from);
        },
      ),
      runs(50, 400),
    );
  });

  test('on hours that run down, for limits that no course ever comes to', () => {
    const line: Timeline = { kind: 'countdown', due: 1.8e12, from: 1.7e12 };
    for (const is of NUMBERS) {
      for (const hours of [2e6, -2e6, 1e300, -1e300])
        agrees(line, leaf(is, hours), [line.from - 1, line.from, line.due, line.due + 1e9], line.from);
    }
  });

  test('of a measure that says nothing: nowhere, either way', () => {
    for (const is of NUMBERS) agrees({ kind: 'none' }, leaf(is, 0), [0, 1e12], Infinity);
  });
});
