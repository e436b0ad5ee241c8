/** Comparing what a measure says with a threshold: a number, a text, yes or no, or a mark of the course. */
import {
  EQUAL,
  LESS,
  MORE,
  sideOf,
  whereNumber,
  whereTest,
  type Test,
  type ComparisonStretches,
} from '../measures/values/truth.ts';
import { readColumn } from '../measures/catalogue/field.ts';
import { round9 } from '../measures/values/value.ts';
import type { Comparator, Leaf } from './condition.ts';

export type Marks = Readonly<Record<string, number>>;

/** The number, text, yes or no behind a threshold; a mark is looked up. Undefined if there is no such value, or it is gone. */
export function thresholdOf(leaf: Leaf, marks: Marks): number | boolean | string | undefined {
  const v = leaf.value;
  if (typeof v !== 'object') return v;
  return Object.hasOwn(marks, v.mark) ? marks[v.mark] : undefined;
}

/** Which sides of a number each comparison asks for. */
const SIDES: Readonly<Partial<Record<Comparator, number>>> = {
  '>=': MORE | EQUAL,
  '<=': LESS | EQUAL,
  '>': MORE,
  '<': LESS,
  equals: EQUAL,
  differs: LESS | MORE,
};

/** What a leaf compares with: "0" and 0 are one threshold (engine C1); a part of a text is always a text. */
function askedOf(leaf: Leaf, marks: Marks): number | boolean | string | null {
  const given = thresholdOf(leaf, marks);
  const asked = typeof given === 'string' && leaf.is !== 'contains' ? readColumn(given) : given;
  return typeof asked === 'number' ? round9(asked) : (asked ?? null);
}

/** What a leaf asks of a value; null where the value or the comparison is unknown (engine C1, C3). */
export function testOf(leaf: Leaf, marks: Marks): Test {
  if (leaf.is === 'empty') return (v) => v === null;
  if (leaf.is === 'filled') return (v) => v !== null;
  const asked = askedOf(leaf, marks);
  if (leaf.is === 'contains') {
    // A number is no part of a text (engine C1).
    if (typeof asked !== 'string') return () => null;
    const part = folded(asked);
    return (v) => (typeof v === 'string' ? folded(v).includes(part) : null);
  }
  const sides = SIDES[leaf.is]!;
  if (typeof asked === 'number') return (v) => (typeof v === 'number' ? (sideOf(v, asked) & sides) !== 0 : null);
  const equal = leaf.is === 'equals';
  if (typeof asked === 'boolean') return (v) => (typeof v === 'boolean' ? (v === asked) === equal : null);
  if (typeof asked === 'string') {
    const text = folded(asked);
    return (v) => (typeof v === 'string' ? (folded(v) === text) === equal : null);
  }
  return () => null;
}

/** Without regard to case and outer blanks. */
const folded = (text: string): string => text.trim().toLowerCase();

/** Where a leaf is true and false on a timeline; its threshold is looked up once for many. */
export function whereOf(leaf: Leaf, marks: Marks): ComparisonStretches {
  const sides = SIDES[leaf.is];
  const asked = askedOf(leaf, marks);
  if (sides !== undefined && typeof asked === 'number') return whereNumber(asked, sides);
  return whereTest(testOf(leaf, marks));
}
