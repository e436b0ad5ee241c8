/**
 * Conditions that work against each other: two on the same measure that can never both hold, one that says nothing the
 * other does not say already, or two of which one always holds. Found by asking both about values on every side of their
 * thresholds, with the very comparisons that decide a round.
 */
import { callKey } from '../measures/values/callKey.ts';
import { CATALOGUE } from '../measures/catalogue/catalogue.ts';
import { isWhole } from '../measures/values/range.ts';
import type { Value } from '../measures/values/value.ts';
import { testOf, thresholdOf, type Marks } from './compare.ts';
import { groupOf, isLeaf, type Condition, type Leaf } from './condition.ts';

export interface Conflict {
  /** Both can never hold; `more` adds nothing to `of`; or one of the two always holds where the measure is known. */
  readonly kind: 'contradiction' | 'needless' | 'always';
  /** Places of the two conditions among the tree's leaves, in its order. */
  readonly of: number;
  readonly more: number;
}

interface Literal {
  readonly leaf: Leaf;
  readonly place: number;
  /** False for what is under "none of". */
  readonly holds: boolean;
}

export function conflictsIn(condition: Condition, marks: Marks): Conflict[] {
  const found: Conflict[] = [];
  let next = 0;
  // What must hold together is collected into one list; every other group begins lists of its own.
  const walk = (c: Condition, holds: boolean, together: Literal[]): void => {
    if (isLeaf(c)) {
      together.push({ leaf: c, place: next++, holds });
      return;
    }
    const { kind, children } = groupOf(c);
    const joined = kind === 'none' ? !holds : holds;
    const conjunctive = kind === 'all' ? holds : !joined;
    if (conjunctive) {
      for (const child of children) walk(child, joined, together);
      return;
    }
    const choices: Literal[] = [];
    for (const child of children) {
      const own: Literal[] = [];
      walk(child, joined, own);
      if (own.length === 1) choices.push(own[0]!);
      else found.push(...pairs(own, marks, 'together'));
    }
    found.push(...pairs(choices, marks, 'either'));
  };
  const top: Literal[] = [];
  walk(condition, true, top);
  found.push(...pairs(top, marks, 'together'));
  return found;
}

function pairs(literals: readonly Literal[], marks: Marks, how: 'together' | 'either'): Conflict[] {
  return literals.flatMap((a, i) =>
    literals.slice(i + 1).flatMap((b) => {
      const kind = compareTwo(a, b, marks, how);
      return kind === null ? [] : [kind];
    }),
  );
}

function compareTwo(a: Literal, b: Literal, marks: Marks, how: 'together' | 'either'): Conflict | null {
  if (callKey(a.leaf) !== callKey(b.leaf)) return null;
  const values = candidates(a.leaf, b.leaf, marks);
  const meets = (l: Literal) => {
    const test = testOf(l.leaf, marks);
    return (v: Value): boolean => {
      const verdict = test(v);
      return verdict !== null && verdict === l.holds;
    };
  };
  const [meetsA, meetsB] = [meets(a), meets(b)];
  const both = values.some((v) => meetsA(v) && meetsB(v));
  const inA = values.every((v) => !meetsB(v) || meetsA(v));
  const inB = values.every((v) => !meetsA(v) || meetsB(v));
  const conflict = (kind: Conflict['kind'], one = a, more = b): Conflict => ({ kind, of: one.place, more: more.place });
  if (how === 'together') {
    if (!both) return conflict('contradiction');
    if (inB) return conflict('needless', a, b);
    return inA ? conflict('needless', b, a) : null;
  }
  if (values.every((v) => v === null || meetsA(v) || meetsB(v))) return conflict('always');
  // Of two choices the narrower one adds nothing.
  if (inA) return conflict('needless', a, b);
  return inB ? conflict('needless', b, a) : null;
}

/** Values on every side of both thresholds: between two neighbours no comparison changes its answer. */
function candidates(a: Leaf, b: Leaf, marks: Marks): Value[] {
  const unit = CATALOGUE[a.measure].unit;
  if (unit === 'yesNo') return [true, false, null];
  const whole = isWhole(unit);
  const given = [thresholdOf(a, marks), thresholdOf(b, marks)];
  const numbers = given.filter((v): v is number => typeof v === 'number');
  const texts = given.filter((v): v is string => typeof v === 'string');
  const near = numbers.flatMap((n) => (whole ? [Math.ceil(n) - 1, n, Math.floor(n) + 1] : [n - 1, n, n + 1]));
  if (numbers.length === 2)
    near.push(whole ? Math.floor((numbers[0]! + numbers[1]!) / 2) : (numbers[0]! + numbers[1]!) / 2);
  const fitting = whole ? near.filter((n) => Number.isInteger(n) && n >= 0) : near;
  const words = unit === 'text' ? [...texts, texts.join(' '), [...texts].reverse().join(' '), '\u0000'] : [];
  return [...fitting, ...words, null];
}
