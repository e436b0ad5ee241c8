/**
 * A condition as two sets of stretches, where it is true and where it is false; the rest is unknown. Groups follow
 * Kleene's strong logic (engine C3, C4): *all* is true where every child is and false where any is; *any* the other way
 * round; *none* is "not any".
 */
import { intersection, stretchAt, union, NEVER, ALWAYS, type Stretches } from '../time/stretches.ts';
import type { Instant } from '../time/instant.ts';
import type { Facts } from '../measures/facts.ts';
import type { Truth } from '../measures/timeline.ts';
import { storyStart } from '../course/course.ts';
import { CATALOGUE } from '../measures/catalogue.ts';
import { groupOf, isLeaf, leavesOf, type Condition } from './condition.ts';
import { truthOfLeaf } from './compare.ts';

export function kleeneAll(parts: readonly Truth[]): Truth {
  return parts.reduce((a, b) => ({ yes: intersection(a.yes, b.yes), no: union(a.no, b.no) }), {
    yes: ALWAYS,
    no: NEVER,
  });
}

export function kleeneAny(parts: readonly Truth[]): Truth {
  return parts.reduce((a, b) => ({ yes: union(a.yes, b.yes), no: intersection(a.no, b.no) }), {
    yes: NEVER,
    no: ALWAYS,
  });
}

export const kleeneNot = (a: Truth): Truth => ({ yes: a.no, no: a.yes });

/** Where the condition is true and false for a person (by roster index). */
export function truthFor(facts: Facts, person: number, condition: Condition): Truth {
  const byPerson = cacheOf(facts, condition);
  const version = facts.version(person, isClassWide(condition));
  const cached = byPerson[person];
  if (cached && cached.version === version) return cached.truth;
  const truth = evaluate(facts, person, condition);
  byPerson[person] = { version, truth };
  return truth;
}

function evaluate(facts: Facts, person: number, condition: Condition): Truth {
  if (isLeaf(condition)) return truthOfLeaf(facts.timeline(person, condition), condition, facts.course.marks);
  const { kind, children } = groupOf(condition);
  const parts = children.map((child) => evaluate(facts, person, child));
  return kind === 'all' ? kleeneAll(parts) : kind === 'any' ? kleeneAny(parts) : kleeneNot(kleeneAny(parts));
}

/** The spell a person is in at t: the maximal stretch in which the whole condition stays true (engine C6), or null. */
export function spellAt(
  facts: Facts,
  person: number,
  condition: Condition,
  t: Instant,
): { start: Instant; end: Instant } | null {
  if (t < storyStart(facts.course, facts.course.people[person]!)) return null;
  return stretchAt(truthFor(facts, person, condition).yes, t);
}

/** All spells of a person. */
export const spellsOf = (facts: Facts, person: number, condition: Condition): Stretches =>
  truthFor(facts, person, condition).yes;

const classWide = new WeakMap<Condition, boolean>();

function isClassWide(condition: Condition): boolean {
  let known = classWide.get(condition);
  if (known === undefined) {
    known = leavesOf(condition).some((l) => CATALOGUE[l.measure].classWide);
    classWide.set(condition, known);
  }
  return known;
}

type Cache = ({ version: number; truth: Truth } | undefined)[];
const caches = new WeakMap<Facts, WeakMap<Condition, Cache>>();

function cacheOf(facts: Facts, condition: Condition): Cache {
  let ofFacts = caches.get(facts);
  if (!ofFacts) caches.set(facts, (ofFacts = new WeakMap()));
  let cache = ofFacts.get(condition);
  if (!cache) ofFacts.set(condition, (cache = []));
  return cache;
}
