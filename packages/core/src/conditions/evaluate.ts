/**
 * A condition as two sets of stretches, where it is true and where it is false; the rest is unknown. Groups follow
 * Kleene's strong logic (engine C3, C4): *all* is true where every child is and false where any is; *any* the other way
 * round; *none* is "not any".
 */
import { intersection, union, NEVER, ALWAYS, type Stretches } from '../time/stretches.ts';
import type { Facts } from '../measures/facts/facts.ts';
import type { ClassWide } from '../measures/values/measure.ts';
import type { TruthStretches } from '../measures/values/truth.ts';
import { CATALOGUE } from '../measures/catalogue/catalogue.ts';
import { groupOf, isLeaf, leavesOf, type Condition } from './condition.ts';
import { whereOf } from './compare.ts';

/** True where every part is, false where any is. */
export const allOf =
  (parts: readonly TruthStretches[]): TruthStretches =>
  (person, holds) =>
    holds ? meeting(parts, person, true) : joining(parts, person, false);

/** True where any part is, false where every one is. */
export const anyOf =
  (parts: readonly TruthStretches[]): TruthStretches =>
  (person, holds) =>
    holds ? joining(parts, person, true) : meeting(parts, person, false);

export const noneOf = (parts: readonly TruthStretches[]): TruthStretches => {
  const any = anyOf(parts);
  return (person, holds) => any(person, !holds);
};

/** Where all are on that side. From the first that never is on, the others need not be known. */
function meeting(parts: readonly TruthStretches[], person: number, holds: boolean): Stretches {
  let out = ALWAYS;
  for (let i = 0; i < parts.length; i++) {
    out = intersection(out, parts[i]!(person, holds));
    if (out.length === 0) return NEVER;
  }
  return out;
}

function joining(parts: readonly TruthStretches[], person: number, holds: boolean): Stretches {
  let out = NEVER;
  for (let i = 0; i < parts.length; i++) out = union(out, parts[i]!(person, holds));
  return out;
}

/** Where the condition is true and false for a person (by roster index). */
export function truthFor(facts: Facts, person: number, condition: Condition): { yes: Stretches; no: Stretches } {
  const sides = sidesOf(facts, condition);
  return { yes: sides(person, true), no: sides(person, false) };
}

/** The sides of a condition, for anyone who asks about many people: what is looked up once a condition is looked up once. */
export function sidesOf(facts: Facts, condition: Condition): TruthStretches {
  let sides = facts.sides.get(condition);
  if (!sides) facts.sides.set(condition, (sides = kept(facts, condition)));
  return sides;
}

function computed(facts: Facts, condition: Condition): TruthStretches {
  if (isLeaf(condition)) {
    const lineOf = facts.timelinesOf(condition);
    const where = whereOf(condition, facts.course.marks);
    return (person, holds) => where(lineOf(person), holds);
  }
  const { kind, children } = groupOf(condition);
  const parts = children.map((child) => partOf(facts, child));
  return kind === 'all' ? allOf(parts) : kind === 'any' ? anyOf(parts) : noneOf(parts);
}

/**
 * A condition within a group. Its sides are asked for once and not kept; but where conditions are being changed, those of a leaf
 * are kept by what it says, as most of them stay as they were.
 */
function partOf(facts: Facts, condition: Condition): TruthStretches {
  if (!facts.drafts || !isLeaf(condition)) return computed(facts, condition);
  const key = JSON.stringify(condition);
  let sides = facts.drafts.get(key);
  if (!sides) facts.drafts.set(key, (sides = kept(facts, condition)));
  return sides;
}

/** Each side is computed once for a person, until what it depends on changes. */
function kept(facts: Facts, condition: Condition): TruthStretches {
  const compute = computed(facts, condition);
  const wide = classWideOf(condition);
  const { length } = facts.course.people;
  const yes = new Array<Stretches | undefined>(length);
  const no: (Stretches | undefined)[] = [];
  const versions = new Float64Array(length).fill(NaN);
  return (person, holds) => {
    const version = facts.version(person, wide);
    if (versions[person] !== version) {
      versions[person] = version;
      yes[person] = undefined;
      if (person < no.length) no[person] = undefined;
    }
    return ((holds ? yes : no)[person] ??= compute(person, holds));
  };
}

/** What of the class a condition depends on: all that anybody does, when one of its measures does. */
function classWideOf(condition: Condition): ClassWide | undefined {
  const all = new Set(leavesOf(condition).map((l) => CATALOGUE[l.measure].classWide));
  return all.has('activity') ? 'activity' : all.has('grades') ? 'grades' : undefined;
}
