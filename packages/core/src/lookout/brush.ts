/**
 * A brush on the header of a column, as a part of the table's condition: the condition is the only state, and a brush is read
 * from it and written into it. Bounds are both included.
 */
import { groupOf, isLeaf, makeGroup, type Condition, type Leaf } from '../conditions/condition.ts';
import { thresholdOf, type Marks } from '../conditions/compare.ts';
import { callKey } from '../measures/values/callKey.ts';
import type { MeasureCall } from '../measures/values/measure.ts';

export type Brush =
  /** Null: no bound on that side. */
  | { readonly kind: 'range'; readonly low: number | null; readonly high: number | null }
  /** Texts, or yes or no. */
  | { readonly kind: 'some'; readonly values: readonly (string | number | boolean)[] }
  /** Those of whom nothing is known. */
  | { readonly kind: 'unknown' };

/** The parts of a condition that all have to be true. */
function partsOf(when: Condition | null): readonly Condition[] {
  if (when === null) return [];
  return !isLeaf(when) && 'all' in when ? when.all : [when];
}

/** One condition of parts that all have to be true; null of none. */
function whenOf(parts: readonly Condition[]): Condition | null {
  if (parts.length === 0) return null;
  return parts.length === 1 ? parts[0]! : makeGroup('all', parts);
}

const withoutTest = ({ is: _is, value: _value, ...call }: Leaf): MeasureCall => call;

/** The leaves of a part that is about one measure alone: a comparison, or a choice among values. */
function leavesAbout(part: Condition, key: string): readonly Leaf[] | null {
  if (isLeaf(part)) return callKey(withoutTest(part)) === key ? [part] : null;
  const { kind, children } = groupOf(part);
  const leaves = children.filter(isLeaf);
  const chosen = kind === 'any' && leaves.length === children.length;
  return chosen && leaves.every((l) => l.is === 'equals' && callKey(withoutTest(l)) === key) ? leaves : null;
}

/** What a condition asks of a measure, as a brush; null where it asks nothing, or something that no brush can show. */
export function brushIn(when: Condition | null, call: MeasureCall, marks: Marks): Brush | null {
  const key = callKey(call);
  let low: number | null = null;
  let high: number | null = null;
  for (const part of partsOf(when)) {
    const leaves = leavesAbout(part, key);
    if (!leaves) continue;
    if (leaves.length > 1 || typeof leaves[0]!.value === 'string' || typeof leaves[0]!.value === 'boolean') {
      return someOf(leaves, marks);
    }
    const leaf = leaves[0]!;
    if (leaf.is === 'empty') return { kind: 'unknown' };
    const value = thresholdOf(leaf, marks);
    if (typeof value !== 'number') continue;
    if (leaf.is === '>=' || leaf.is === '>' || leaf.is === 'equals') low = Math.max(low ?? value, value);
    if (leaf.is === '<=' || leaf.is === '<' || leaf.is === 'equals') high = Math.min(high ?? value, value);
  }
  return low === null && high === null ? null : { kind: 'range', low, high };
}

function someOf(leaves: readonly Leaf[], marks: Marks): Brush | null {
  const values = leaves.map((leaf) => {
    const value = thresholdOf(leaf, marks);
    if (typeof value === 'boolean') return (leaf.is === 'equals') === value;
    return leaf.is === 'equals' ? value : undefined;
  });
  return values.every((v) => v !== undefined) ? { kind: 'some', values } : null;
}

/** The condition with another brush on a measure, or with none; what else it asks stays as it is, in its place. */
export function withBrush(when: Condition | null, call: MeasureCall, brush: Brush | null): Condition | null {
  const key = callKey(call);
  const parts = partsOf(when);
  const first = parts.findIndex((part) => leavesAbout(part, key) !== null);
  const others = parts.filter((part) => leavesAbout(part, key) === null);
  const place = first < 0 ? others.length : first;
  return whenOf([...others.slice(0, place), ...partsFor(call, brush), ...others.slice(place)]);
}

function partsFor(call: MeasureCall, brush: Brush | null): Condition[] {
  switch (brush?.kind) {
    case undefined:
      return [];
    case 'unknown':
      return [{ ...call, is: 'empty' }];
    case 'range': {
      const { low, high } = brush;
      if (low !== null && low === high) return [{ ...call, is: 'equals', value: low }];
      return [
        ...(low === null ? [] : [{ ...call, is: '>=' as const, value: low }]),
        ...(high === null ? [] : [{ ...call, is: '<=' as const, value: high }]),
      ];
    }
    case 'some': {
      const leaves = brush.values.map((value): Leaf => ({ ...call, is: 'equals', value }));
      if (leaves.length === 0) return [];
      return leaves.length === 1 ? leaves : [makeGroup('any', leaves)];
    }
  }
}
