/**
 * A condition as two sets of stretches, where it is true and where it is false; the rest is unknown. Groups follow
 * Kleene's strong logic (engine C3, C4): *all* is true where every child is and false where any is; *any* the other way
 * round; *none* is "not any".
 */
import { intersection, stretchAt, union, NEVER, ALWAYS, type Stretches } from '../time/stretches.ts';
import type { Instant } from '../time/instant.ts';
import type { Facts } from '../measures/facts.ts';
import type { ClassWide } from '../measures/measure.ts';
import type { Timeline } from '../measures/timeline.ts';
import type { Truth, Truths, Where } from '../measures/truth.ts';
import { CATALOGUE } from '../measures/catalogue.ts';
import { groupOf, isLeaf, leavesOf, type Condition } from './condition.ts';
import { whereOf } from './compare.ts';

/** All of some truths, or any of them. Which side is not asked for is not worked out. */
class Joined implements Truth {
  private all: boolean;
  private truths: readonly Truth[];
  private knownYes: Stretches | null = null;
  private knownNo: Stretches | null = null;

  constructor(all: boolean, truths: readonly Truth[]) {
    this.all = all;
    this.truths = truths;
  }

  get yes(): Stretches {
    return (this.knownYes ??= (this.all ? meeting : joining)(this.truths, YES));
  }

  get no(): Stretches {
    return (this.knownNo ??= (this.all ? joining : meeting)(this.truths, NO));
  }
}

class Not implements Truth {
  private truth: Truth;

  constructor(truth: Truth) {
    this.truth = truth;
  }

  get yes(): Stretches {
    return this.truth.no;
  }

  get no(): Stretches {
    return this.truth.yes;
  }
}

/** A leaf of one person. Its timeline is laid out when one of the two sides is asked for. */
class OfLeaf implements Truth {
  private person: number;
  private lineOf: (person: number) => Timeline;
  private where: Where;
  private knownYes: Stretches | null = null;
  private knownNo: Stretches | null = null;

  constructor(person: number, lineOf: (person: number) => Timeline, where: Where) {
    this.person = person;
    this.lineOf = lineOf;
    this.where = where;
  }

  get yes(): Stretches {
    return (this.knownYes ??= this.where(this.lineOf(this.person), true));
  }

  get no(): Stretches {
    return (this.knownNo ??= this.where(this.lineOf(this.person), false));
  }
}

type Side = (truth: Truth) => Stretches;
const YES: Side = (truth) => truth.yes;
const NO: Side = (truth) => truth.no;

/** Where all are on that side. From the first that never is on, the others need not be known. */
function meeting(truths: readonly Truth[], side: Side): Stretches {
  let out = ALWAYS;
  for (const truth of truths) {
    out = intersection(out, side(truth));
    if (out.length === 0) return NEVER;
  }
  return out;
}

function joining(truths: readonly Truth[], side: Side): Stretches {
  let out = NEVER;
  for (const truth of truths) out = union(out, side(truth));
  return out;
}

export const kleeneAll = (parts: readonly Truth[]): Truth => new Joined(true, parts);
export const kleeneAny = (parts: readonly Truth[]): Truth => new Joined(false, parts);
export const kleeneNot = (a: Truth): Truth => new Not(a);

/** Where the condition is true and false for a person (by roster index). */
export function truthFor(facts: Facts, person: number, condition: Condition): Truth {
  return truthsOf(facts, condition)(person);
}

/** The same for many people in a row: what is looked up once a condition is looked up once. */
export function truthsOf(facts: Facts, condition: Condition): Truths {
  let truths = facts.truths.get(condition);
  if (!truths) facts.truths.set(condition, (truths = kept(facts, condition, computed(facts, condition))));
  return truths;
}

function computed(facts: Facts, condition: Condition): Truths {
  if (isLeaf(condition)) {
    const lineOf = facts.timelinesOf(condition);
    const where = whereOf(condition, facts.course.marks);
    return (person) => new OfLeaf(person, lineOf, where);
  }
  const { kind, children } = groupOf(condition);
  const parts = children.map((child) => part(facts, child));
  return (person) => {
    const truths = new Array<Truth>(parts.length);
    for (let i = 0; i < parts.length; i++) truths[i] = parts[i]!(person);
    const joined = kind === 'all' ? kleeneAll(truths) : kleeneAny(truths);
    return kind === 'none' ? kleeneNot(joined) : joined;
  };
}

/** A condition within a group: kept by what it says where conditions are being changed, as most of them stay as they were. */
function part(facts: Facts, condition: Condition): Truths {
  if (!facts.drafts || !isLeaf(condition)) return computed(facts, condition);
  const key = JSON.stringify(condition);
  let truths = facts.drafts.get(key);
  if (!truths) facts.drafts.set(key, (truths = kept(facts, condition, computed(facts, condition))));
  return truths;
}

/** Computed once for a person, until what it depends on changes. */
function kept(facts: Facts, condition: Condition, compute: Truths): Truths {
  const wide = classWideOf(condition);
  const known: (Truth | undefined)[] = [];
  const versions: number[] = [];
  return (person) => {
    const version = facts.version(person, wide);
    const cached = known[person];
    if (cached !== undefined && versions[person] === version) return cached;
    versions[person] = version;
    return (known[person] = compute(person));
  };
}

/** The spell a person is in at t: the maximal stretch in which the whole condition stays true (engine C6), or null. */
export function spellAt(facts: Facts, person: number, condition: Condition, t: Instant): Spell | null {
  return spellsReader(facts, condition)(person, t);
}

export interface Spell {
  readonly start: Instant;
  readonly end: Instant;
}

/** The spell that a person is in at an instant, or null. */
export type SpellReader = (person: number, t: Instant) => Spell | null;

/** Reads spells of one condition for many people. */
export function spellsReader(facts: Facts, condition: Condition): SpellReader {
  const truths = truthsOf(facts, condition);
  // Before a story starts nothing is known (engine H4): its timelines begin there, and so do its spells.
  return (person, t) => stretchAt(truths(person).yes, t);
}

/** A reader for instants that only go forward, as the rounds of a replay do: each person's stretches are walked once. */
export function spellsAhead(facts: Facts, condition: Condition): SpellReader {
  const truths = truthsOf(facts, condition);
  const lines: { readonly yes: Stretches; at: number; spell: Spell | null }[] = [];
  return (person, t) => {
    const line = (lines[person] ??= { yes: truths(person).yes, at: 0, spell: null });
    const { yes } = line;
    while (line.at < yes.length && yes[line.at + 1]! <= t) {
      line.at += 2;
      line.spell = null;
    }
    if (line.at >= yes.length || yes[line.at]! > t) return null;
    return (line.spell ??= { start: yes[line.at]!, end: yes[line.at + 1]! });
  };
}

/** What of the class a condition depends on: all that anybody does, when one of its measures does. */
function classWideOf(condition: Condition): ClassWide | undefined {
  const all = new Set(leavesOf(condition).map((l) => CATALOGUE[l.measure].classWide));
  return all.has('activity') ? 'activity' : all.has('grades') ? 'grades' : undefined;
}
