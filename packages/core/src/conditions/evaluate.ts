/**
 * A condition as two sets of stretches, where it is true and where it is false; the rest is unknown. Groups follow
 * Kleene's strong logic (engine C3, C4): *all* is true where every child is and false where any is; *any* the other way
 * round; *none* is "not any".
 */
import { intersection, stretchAt, union, NEVER, ALWAYS } from '../time/stretches.ts';
import type { Instant } from '../time/instant.ts';
import type { Facts } from '../measures/facts.ts';
import type { Truth } from '../measures/timeline.ts';
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
  return truthsOf(facts, condition)(person);
}

/** The same for many people in a row: what is looked up once a condition is looked up once. */
export function truthsOf(facts: Facts, condition: Condition): (person: number) => Truth {
  const byPerson = cacheOf(facts, condition);
  const wide = isClassWide(condition);
  return (person) => {
    const version = facts.version(person, wide);
    const cached = byPerson[person];
    if (cached !== undefined && cached.version === version) return cached.truth;
    const truth = evaluate(facts, person, condition);
    byPerson[person] = { version, truth };
    return truth;
  };
}

function evaluate(facts: Facts, person: number, condition: Condition): Truth {
  if (isLeaf(condition)) return truthOfLeaf(facts.timeline(person, condition), condition, facts.course.marks);
  const { kind, children } = groupOf(condition);
  const parts = children.map((child) => evaluate(facts, person, child));
  return kind === 'all' ? kleeneAll(parts) : kind === 'any' ? kleeneAny(parts) : kleeneNot(kleeneAny(parts));
}

/** The spell a person is in at t: the maximal stretch in which the whole condition stays true (engine C6), or null. */
export function spellAt(facts: Facts, person: number, condition: Condition, t: Instant): Spell | null {
  return spellsReader(facts, condition)(person, t);
}

export interface Spell {
  readonly start: Instant;
  readonly end: Instant;
}

/** Reads spells of one condition for many people. */
export function spellsReader(facts: Facts, condition: Condition): (person: number, t: Instant) => Spell | null {
  const truths = truthsOf(facts, condition);
  // Before a story starts nothing is known (engine H4): its timelines begin there, and so do its spells.
  return (person, t) => stretchAt(truths(person).yes, t);
}

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
