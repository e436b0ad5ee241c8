import type { Test, Timeline, Truth } from '../measures/timeline.ts';
import { truthOf, truthOfEquality } from '../measures/timeline.ts';
import { readColumn } from '../measures/field.ts';
import { round9 } from '../measures/value.ts';
import { assertNever } from '../problem.ts';
import type { Leaf } from './condition.ts';

export type Marks = Readonly<Record<string, number>>;

/** The number, text, yes or no behind a threshold; a mark is looked up. Undefined where there is none, or it is gone. */
export function thresholdOf(leaf: Leaf, marks: Marks): number | boolean | string | undefined {
  const v = leaf.value;
  if (typeof v !== 'object') return v;
  return Object.hasOwn(marks, v.mark) ? marks[v.mark] : undefined;
}

/** What a leaf asks of a value; null where the value or the comparison is unknown (engine C1, C3). */
export function testOf(leaf: Leaf, marks: Marks): Test {
  if (leaf.is === 'empty') return (v) => v === null;
  if (leaf.is === 'filled') return (v) => v !== null;
  const given = thresholdOf(leaf, marks);
  // "0" and 0 are one threshold (engine C1); a part of a text is always a text.
  const threshold = typeof given === 'string' && leaf.is !== 'contains' ? readColumn(given) : given;
  if (leaf.is === 'contains') {
    // A number is no part of a text (engine C1).
    if (typeof given !== 'string') return () => null;
    const part = folded(given);
    return (v) => (typeof v === 'string' ? folded(v).includes(part) : null);
  }
  if (typeof threshold === 'number') {
    const limit = round9(threshold);
    return (v) => (typeof v === 'number' ? compare(leaf, v, limit) : null);
  }
  if (typeof threshold === 'boolean') {
    return (v) => (typeof v === 'boolean' ? (v === threshold) === (leaf.is === 'equals') : null);
  }
  if (typeof threshold === 'string') {
    const text = folded(threshold);
    return (v) => (typeof v === 'string' ? (folded(v) === text) === (leaf.is === 'equals') : null);
  }
  return () => null;
}

/** Without regard to case and outer blanks. */
const folded = (text: string): string => text.trim().toLowerCase();

function compare(leaf: Leaf, v: number, limit: number): boolean | null {
  switch (leaf.is) {
    case '>=':
      return v >= limit;
    case '<=':
      return v <= limit;
    case '>':
      return v > limit;
    case '<':
      return v < limit;
    case 'equals':
      return v === limit;
    case 'differs':
      return v !== limit;
    case 'contains':
    case 'empty':
    case 'filled':
      return null;
    default:
      return assertNever(leaf.is);
  }
}

/** The stretches in which a leaf is true and false on a timeline; its threshold is looked up once for many. */
export function truthReader(leaf: Leaf, marks: Marks): (line: Timeline) => Truth {
  const test = testOf(leaf, marks);
  if (leaf.is !== 'equals' && leaf.is !== 'differs') return (line) => truthOf(line, test);
  const threshold = thresholdOf(leaf, marks);
  const hours = typeof threshold === 'number' ? threshold : NaN;
  return (line) =>
    line.kind === 'countdown' ? truthOfEquality(line, hours, leaf.is === 'equals') : truthOf(line, test);
}

/** The same of one timeline. */
export const truthOfLeaf = (line: Timeline, leaf: Leaf, marks: Marks): Truth => truthReader(leaf, marks)(line);
