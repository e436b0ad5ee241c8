/**
 * The verdict of a condition on many people at one instant, leaf by leaf on columns of values: what a table asks for while a
 * brush moves. By Kleene's strong logic (engine C3): the truth is the least of all, the greatest of any, and turned round by none.
 */
import type { Value } from '../measures/values/value.ts';
import { testOf, type Marks } from './compare.ts';
import { groupOf, isLeaf, type Condition, type Leaf } from './condition.ts';

/** In the order of truth, so that groups are the least and the greatest of their children. */
export const VERDICT_NO = 0;
export const VERDICT_UNKNOWN = 1;
export const VERDICT_YES = 2;

/** The values of a leaf's measure; `undefined` where the measure says nothing of somebody, which is unknown to every test. */
export type ValuesOf = (leaf: Leaf) => readonly (Value | undefined)[];

/** One verdict a person, in the order of the values. */
export function verdictsOf(condition: Condition, marks: Marks, people: number, valuesOf: ValuesOf): Uint8Array {
  if (isLeaf(condition)) return leafVerdicts(condition, marks, people, valuesOf(condition));
  const { kind, children } = groupOf(condition);
  const joined = new Uint8Array(people).fill(kind === 'all' ? VERDICT_YES : VERDICT_NO);
  for (const child of children) {
    const own = verdictsOf(child, marks, people, valuesOf);
    for (let i = 0; i < people; i++) {
      if (kind === 'all' ? own[i]! < joined[i]! : own[i]! > joined[i]!) joined[i] = own[i]!;
    }
  }
  if (kind === 'none') for (let i = 0; i < people; i++) joined[i] = VERDICT_YES - joined[i]!;
  return joined;
}

function leafVerdicts(leaf: Leaf, marks: Marks, people: number, values: readonly (Value | undefined)[]): Uint8Array {
  const test = testOf(leaf, marks);
  const verdicts = new Uint8Array(people).fill(VERDICT_UNKNOWN);
  for (let i = 0; i < people; i++) {
    const value = values[i];
    if (value === undefined) continue;
    const verdict = test(value);
    if (verdict !== null) verdicts[i] = verdict ? VERDICT_YES : VERDICT_NO;
  }
  return verdicts;
}
