/**
 * The live reach of a rule being composed: who matches, who would hear, who is withheld and why. It runs in the browser on
 * values and limit facts that the server laid out once, by the same `decide` that rings the rule.
 */
import { LRUCache } from 'lru-cache';
import type { LeafEvidence } from '../../conditions/evidence.ts';
import { testOf } from '../../conditions/compare.ts';
import { leavesOf, type Leaf } from '../../conditions/condition.ts';
import { sidesOf } from '../../conditions/evaluate.ts';
import { spellsAt, type PersonSpell } from '../../conditions/spells.ts';
import type { Course } from '../../course/course.ts';
import type { Fact } from '../../measures/values/fact.ts';
import { callKey } from '../../measures/values/callKey.ts';
import type { Facts } from '../../measures/facts/facts.ts';
import type { MeasureCall } from '../../measures/values/measure.ts';
import { timelineIn, type MeasureColumn } from '../../measures/facts/column.ts';
import { NOT_APPLICABLE, valueAt, type Timeline } from '../../measures/values/timeline.ts';
import type { TruthStretches } from '../../measures/values/truth.ts';
import type { Value } from '../../measures/values/value.ts';
import { outOfRange } from '../../problem/range.ts';
import { numbersOf, withNumbers } from '../../rules/numbers.ts';
import type { Rule } from '../../rules/rule.ts';
import type { Instant } from '../../time/instant.ts';
import { decide, inAudience } from '../decide/decide.ts';
import { evidenceOf, explained, type Decision, type Explained } from '../decide/decision.ts';
import { nudgeInTheWay } from './coming.ts';
import { unheardIn, type SilentCondition } from '../decide/unheard.ts';
import { logOf, type LimitLog } from '../decide/log.ts';
import type { WorkInParts } from '../../time/inParts.ts';

/** Comparisons that are kept while a condition is being changed, one for each value that was tried. */
const MOST_DRAFTS = 60;

/** Facts from the columns that were sent: no events, only each measure's value over time and the fact behind it at one instant. */
export class SentFacts implements Facts {
  readonly course: Course;
  private readonly columns: ReadonlyMap<string, MeasureColumn>;
  private readonly lines = new Map<string, Timeline[]>();
  readonly sides = new WeakMap<object, TruthStretches>();
  readonly drafts = new LRUCache<string, TruthStretches>({ max: MOST_DRAFTS });

  constructor(course: Course, columns: Iterable<MeasureColumn>) {
    this.course = course;
    this.columns = new Map([...columns].map((column) => [callKey(column.call), column]));
  }

  /** Whether every measure of a condition is here. One that is not reads as unknown. */
  has(calls: readonly MeasureCall[]): boolean {
    return calls.every((call) => this.columns.has(callKey(call)));
  }

  timeline(person: number, call: MeasureCall): Timeline {
    return this.timelinesOf(call)(person);
  }

  timelinesOf(call: MeasureCall): (person: number) => Timeline {
    const key = callKey(call);
    const column = this.columns.get(key);
    if (!column) return () => NOT_APPLICABLE;
    let lines = this.lines.get(key);
    if (!lines) this.lines.set(key, (lines = []));
    const kept = lines;
    return (person) => (kept[person] ??= timelineIn(column, person));
  }

  /** The fact at the instant of the column: what was sent knows no other. Throws a RangeError for another instant. */
  fact(person: number, call: MeasureCall, t: Instant): Fact {
    const column = this.columns.get(callKey(call));
    if (!column) return { kind: 'doesNotCount' };
    if (column.at !== t) throw new RangeError('Facts were sent for another instant');
    return column.facts[person] ?? { kind: 'doesNotCount' };
  }

  version(): number {
    return 0;
  }
}

/** One dot is one student. */
export interface Dot {
  readonly student: string;
  readonly value: Value;
  /** Meets every condition; this one only; not this one; or nobody can say. */
  readonly meets: 'all' | 'this' | 'no' | 'unknown';
}

export interface Reach {
  readonly audience: number;
  /** At the instant of the facts shown. */
  readonly matching: number;
  /** At the round that is decided. */
  readonly matchingThen: number;
  /** Which nudge used up the message budget of those who are held back by it, of those who are listed. */
  readonly takenBy: Readonly<Record<string, TakenBy>>;
  /** People of the audience who meet it now or met it before, at any time of the term. */
  readonly everMatched: number;
  /** Conditions on completions of which none has come in. */
  readonly unheard: readonly SilentCondition[];
  /** How all of them come out; the lists below may hold the first of them alone. */
  readonly counts: ReachCounts;
  /** Those who would hear first, those who are held back last. */
  readonly decisions: readonly Explained[];
  /** People who match while no step is due yet: they leave no decision. */
  readonly waiting: readonly {
    readonly student: string;
    readonly spellStart: Instant;
    readonly evidence: readonly LeafEvidence[];
  }[];
  /** For each leaf in the tree's order, a dot for each person of the audience. */
  readonly dots: readonly (readonly Dot[])[];
}

/** A nudge in the way: of a rule, or by hand where null; sent, or still to come before the round. */
export interface TakenBy {
  readonly rule: string | null;
  readonly at: Instant;
  readonly coming: boolean;
}

export interface ReachCounts {
  readonly sent: number;
  readonly held: number;
  readonly withheld: number;
  readonly withdrawn: number;
  readonly waiting: number;
  /** Of those who would hear at once, how many hear each step. */
  readonly sentByStep: readonly number[];
}

/** One leaf's value and verdict for each person of the audience, as columns: a drag asks for them at every step. */
export interface DotColumn {
  /** NaN for unknown where all others are numbers. */
  readonly values: Float64Array | readonly Value[];
  /** By place in `MEETS`. */
  readonly meets: Uint8Array;
}

/** A reach as it is computed and handed from thread to thread: its dots in columns, which are copied many times faster. */
export interface ReachColumns extends Omit<Reach, 'dots'> {
  /** Places in the roster. */
  readonly people: Int32Array;
  readonly columns: readonly DotColumn[];
}

/**
 * Matches at `at`, by the facts of that instant, and the decisions at `then`, if nobody does anything until then. The
 * first `most` people are listed by outcome: nobody reads two thousand reasons while dragging; they are asked for when they are.
 */
export function reach(
  rule: Rule,
  facts: Facts,
  logged: LimitLog,
  at: Instant,
  then: Instant = at,
  most = Infinity,
): ReachColumns {
  const { course } = facts;
  const inIt: number[] = [];
  for (let i = 0; i < course.people.length; i++)
    if (inAudience(course.people[i]!, rule.audience, course, at)) inIt.push(i);
  const people = Int32Array.from(inIt);
  const isAmong = new Uint8Array(course.people.length);
  for (const i of people) isAmong[i] = 1;
  const matching = spellsAt(facts, rule.when, at).filter(({ person }) => isAmong[person] === 1);
  const matches = new Uint8Array(course.people.length);
  for (const { person } of matching) matches[person] = 1;
  const sides = sidesOf(facts, rule.when);
  const those = then === at ? matching : spellsAt(facts, rule.when, then).filter(({ person }) => isAmong[person] === 1);
  const log = logOf(logged);
  const decisions = decide([rule], facts, log, then, () => those);
  const listed = byOutcome(decisions, (d) => d).slice(0, most);
  const taken: Record<string, TakenBy> = {};
  for (const d of listed) {
    const by = d.reason === 'budget' ? nudgeInTheWay(rule, d.student, facts, log, then) : null;
    if (by) taken[d.student] = { rule: by.rule, at: by.round, coming: by.coming === true };
  }
  let everMatched = 0;
  for (const i of people) if ((sides(i, true)[0] ?? Infinity) <= at) everMatched++;
  return {
    audience: people.length,
    matching: matching.length,
    everMatched,
    unheard: unheardIn(rule.when, facts, at),
    matchingThen: those.length,
    takenBy: taken,
    counts: countsOf(decisions, rule.steps.length, those.length),
    decisions: listed.map((d) => explained(d, rule, facts, at)),
    waiting: waitingOf(those, decisions, facts)
      .slice(0, Math.max(0, most - listed.length))
      .map((w) => ({ ...w, evidence: evidenceOf(w.student, rule, facts, at) })),
    people,
    columns: leavesOf(rule.when).map((leaf) => columnOf(leaf, facts, people, matches, at)),
  };
}

/** Students who match but have no step due. */
function waitingOf(
  matching: readonly PersonSpell[],
  decisions: readonly Decision[],
  { course }: Facts,
): { student: string; spellStart: Instant }[] {
  if (decisions.length === matching.length) return [];
  const decided = new Set(decisions.map((d) => d.student));
  return matching.flatMap(({ person, start }) => {
    const student = course.people[person]!.id;
    return decided.has(student) ? [] : [{ student, spellStart: start }];
  });
}

/** How far on both sides of a number is looked ahead. */
const NEARBY = 3;

/**
 * Works out the reach of a rule with each number of its condition a little lower and higher, the nearest first, a part for each:
 * what a drag is about to ask is known then, and the code that answers is warm. `most` as it is asked.
 */
export function* lookNearby(
  rule: Rule,
  facts: Facts,
  logged: LimitLog,
  at: Instant,
  most: number,
  then: Instant = at,
): WorkInParts<void> {
  const { course } = facts;
  const numbers = numbersOf(rule, course).filter((n) => n.path.startsWith('when'));
  for (let far = 1; far <= NEARBY; far++) {
    for (const { path, value, range } of numbers) {
      for (const near of [value - far, value + far]) {
        if (outOfRange(near, range) !== null) continue;
        reach(withNumbers(rule, course, new Map([[path, near]])), facts, logged, at, then, most);
        yield;
      }
    }
  }
}

function columnOf(leaf: Leaf, facts: Facts, people: Int32Array, matches: Uint8Array, at: Instant): DotColumn {
  const test = testOf(leaf, facts.course.marks);
  const lineOf = facts.timelinesOf(leaf);
  const numbers = new Float64Array(people.length);
  const others: Value[] = [];
  const meets = new Uint8Array(people.length);
  for (let k = 0; k < people.length; k++) {
    const line = lineOf(people[k]!);
    const value = valueAt(line, at);
    if (typeof value === 'number') numbers[k] = value;
    else {
      numbers[k] = NaN;
      if (value !== null) others[k] = value;
    }
    const verdict = line.kind === 'none' ? null : test(value);
    meets[k] = verdict === null ? UNKNOWN : !verdict ? NO : matches[people[k]!] === 1 ? ALL : THIS;
  }
  if (others.length === 0) return { values: numbers, meets };
  return { values: Array.from(numbers, (n, k) => others[k] ?? (Number.isNaN(n) ? null : n)), meets };
}

function countsOf(decisions: readonly Decision[], steps: number, matching: number): ReachCounts {
  const counts = { sent: 0, held: 0, withheld: 0, withdrawn: 0 };
  const sentByStep = Array.from({ length: steps }, () => 0);
  for (const d of decisions) {
    counts[d.outcome]++;
    if (d.outcome === 'sent') sentByStep[d.step]!++;
  }
  return { ...counts, waiting: matching - decisions.length, sentByStep };
}

const ORDER: Readonly<Record<Decision['outcome'], number>> = { sent: 0, held: 1, withdrawn: 2, withheld: 3 };

/** Sorts by outcome: those who would be nudged come first, those who are held back last. */
export const byOutcome = <T>(all: readonly T[], decisionOf: (one: T) => Decision): T[] =>
  [...all].sort((a, b) => ORDER[decisionOf(a).outcome] - ORDER[decisionOf(b).outcome]);

const MEETS = ['all', 'this', 'no', 'unknown'] as const satisfies readonly Dot['meets'][];

const [ALL, THIS, NO, UNKNOWN] = [0, 1, 2, 3];

/** With a dot for each person; `course` is the one that it was computed for. */
export function receivedReach({ people, columns, ...rest }: ReachColumns, course: Pick<Course, 'people'>): Reach {
  const dots = columns.map(({ values, meets }) =>
    Array.from(people, (person, k): Dot => {
      const value = values[k]!;
      return {
        student: course.people[person]!.id,
        value: typeof value === 'number' && Number.isNaN(value) ? null : value,
        meets: MEETS[meets[k]!]!,
      };
    }),
  );
  return { ...rest, dots };
}
