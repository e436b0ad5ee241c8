/** Why a condition holds or not, leaf by leaf, without short-circuit (engine C5). */
import type { Instant } from '../time/instant.ts';
import type { Fact } from '../measures/values/fact.ts';
import type { Facts } from '../measures/facts/facts.ts';
import type { MeasureCall } from '../measures/values/measure.ts';
import { valueAt } from '../measures/values/timeline.ts';
import type { Value } from '../measures/values/value.ts';
import { storyStart } from '../course/course.ts';
import type { Test } from '../measures/values/truth.ts';
import { leavesOf, type Comparator, type Condition, type Leaf } from './condition.ts';
import { testOf, thresholdOf, type Marks } from './compare.ts';

export interface LeafEvidence extends MeasureCall {
  readonly value: Value;
  readonly is: Comparator;
  /** The number, text, yes or no compared with; null for `empty` and `filled`. */
  readonly threshold: number | boolean | string | null;
  readonly mark?: string | undefined;
  readonly verdict: boolean | null;
  readonly fact: Fact;
}

export function evidenceAt(facts: Facts, person: number, condition: Condition, t: Instant): LeafEvidence[] {
  const { marks, people } = facts.course;
  const begun = t >= storyStart(facts.course, people[person]!);
  return askedIn(condition, marks).map(({ leaf, test, same }) => {
    const line = facts.timeline(person, leaf);
    const evidence: Mutable<LeafEvidence> = { ...same };
    evidence.value = valueAt(line, t);
    if (begun && line.kind !== 'none') evidence.verdict = test(evidence.value);
    evidence.fact = facts.fact(person, leaf, t);
    return evidence;
  });
}

/** The evidence of single leaves, as a message about a student tells it; calls that compare nothing are left out. */
export function evidenceOfCalls(
  facts: Facts,
  person: number,
  calls: readonly MeasureCall[],
  t: Instant,
): LeafEvidence[] {
  const leaves = calls.filter((call): call is Leaf => 'is' in call);
  return leaves.flatMap((leaf) => evidenceAt(facts, person, leaf, t));
}

type Mutable<T> = { -readonly [K in keyof T]: T[K] };

/** What a leaf asks of everybody, and what the evidence of all has in common. */
interface LeafTest {
  readonly leaf: Leaf;
  readonly test: Test;
  readonly same: LeafEvidence;
}

const asked = new WeakMap<Condition, { readonly marks: Marks; readonly leaves: readonly LeafTest[] }>();

/** Laid out once for a condition, as rounds and drags read the evidence of many. */
function askedIn(condition: Condition, marks: Marks): readonly LeafTest[] {
  let known = asked.get(condition);
  if (known?.marks !== marks) {
    known = { marks, leaves: leavesOf(condition).map((leaf) => askedOf(leaf, marks)) };
    asked.set(condition, known);
  }
  return known.leaves;
}

function askedOf(leaf: Leaf, marks: Marks): LeafTest {
  const { is, value, ...call } = leaf;
  const threshold = thresholdOf(leaf, marks) ?? null;
  const mark = typeof value === 'object' ? { mark: value.mark } : {};
  const same = { ...call, value: null, is, threshold, ...mark, verdict: null, fact: NO_FACT };
  return { leaf, test: testOf(leaf, marks), same };
}

/** Until the fact is known. */
const NO_FACT: Fact = { kind: 'doesNotCount' };
