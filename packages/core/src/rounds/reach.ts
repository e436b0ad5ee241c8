/**
 * The live reach of a rule being composed: who matches, who would hear, who is withheld and why. It runs in the browser on
 * values and limit facts that the server laid out once, by the same `decide` that rings the rule.
 */
import { evidenceAt, type LeafEvidence } from '../conditions/evidence.ts';
import { leavesOf } from '../conditions/condition.ts';
import { spellAt, truthsOf } from '../conditions/evaluate.ts';
import type { Course } from '../course/course.ts';
import type { Fact } from '../measures/fact.ts';
import { callKey } from '../measures/callKey.ts';
import type { Facts } from '../measures/facts.ts';
import type { MeasureCall } from '../measures/measure.ts';
import { NOT_APPLICABLE, type Timeline } from '../measures/timeline.ts';
import type { Value } from '../measures/value.ts';
import type { Rule } from '../rules/rule.ts';
import type { Instant } from '../time/instant.ts';
import { decide, inAudience, type Decision } from './decide.ts';
import { NudgeLog, type LoggedNudge } from './log.ts';
import { matchesAt } from './matches.ts';

/** What a browser is given: no events, only each measure's value over time and the fact behind it now. */
export interface ReachFacts {
  readonly at: Instant;
  readonly calls: readonly {
    readonly call: MeasureCall;
    readonly lines: readonly Timeline[];
    readonly facts: readonly Fact[];
  }[];
  readonly nudges: readonly LoggedNudge[];
}

/** Lays out what `reach` needs for the measures of a condition. */
export function reachFacts(
  calls: readonly MeasureCall[],
  facts: Facts,
  nudges: readonly LoggedNudge[],
  at: Instant,
): ReachFacts {
  const people = facts.course.people.map((_, i) => i);
  const unique = new Map(calls.map((call) => [callKey(call), call]));
  return {
    at,
    calls: [...unique.values()].map((call) => ({
      call,
      lines: people.map((i) => facts.timeline(i, call)),
      facts: people.map((i) => facts.fact(i, call, at)),
    })),
    nudges,
  };
}

/** Facts as they were sent. A measure that was not sent yet reads as unknown. */
export class SentFacts implements Facts {
  readonly course: Course;
  private readonly byKey: ReadonlyMap<string, ReachFacts['calls'][number]>;

  constructor(course: Course, sent: ReachFacts) {
    this.course = course;
    this.byKey = new Map(sent.calls.map((c) => [callKey(c.call), c]));
  }

  timeline(person: number, call: MeasureCall): Timeline {
    return this.byKey.get(callKey(call))?.lines[person] ?? NOT_APPLICABLE;
  }

  fact(person: number, call: MeasureCall): Fact {
    return this.byKey.get(callKey(call))?.facts[person] ?? { kind: 'doesNotCount' };
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
  readonly matching: number;
  /** People of the audience who meet it now or met it before, at any time of the term. */
  readonly everMatched: number;
  readonly decisions: readonly Decision[];
  /** People who match while no step is due yet: they leave no decision. */
  readonly waiting: readonly {
    readonly student: string;
    readonly spellStart: Instant;
    readonly evidence: readonly LeafEvidence[];
  }[];
  /** For each leaf in the tree's order, a dot for each person of the audience. */
  readonly dots: readonly (readonly Dot[])[];
}

export function reach(rule: Rule, facts: Facts, nudges: readonly LoggedNudge[], at: Instant): Reach {
  const { course } = facts;
  const people = course.people.map((_, i) => i).filter((i) => inAudience(course.people[i]!, rule.audience, course, at));
  const matching = matchesAt(rule, facts, at);
  const matches = new Set(matching);
  const truths = truthsOf(facts, rule.when);
  const decisions = decide([rule], facts, new NudgeLog(nudges), at);
  const decided = new Set(decisions.map((d) => d.student));
  const dots: Dot[][] = leavesOf(rule.when).map(() => []);
  for (const i of people) {
    evidenceAt(facts, i, rule.when, at).forEach((leaf, n) => {
      const meets = leaf.verdict === null ? 'unknown' : !leaf.verdict ? 'no' : matches.has(i) ? 'all' : 'this';
      dots[n]!.push({ student: course.people[i]!.id, value: leaf.value, meets });
    });
  }
  return {
    audience: people.length,
    matching: matching.length,
    everMatched: people.filter((i) => (truths(i).yes[0] ?? Infinity) <= at).length,
    decisions,
    waiting: matching
      .filter((i) => !decided.has(course.people[i]!.id))
      .map((i) => ({
        student: course.people[i]!.id,
        spellStart: spellAt(facts, i, rule.when, at)!.start,
        evidence: evidenceAt(facts, i, rule.when, at),
      })),
    dots,
  };
}
