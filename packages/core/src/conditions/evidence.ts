/** Why a condition holds or not, leaf by leaf, without short-circuit (engine C5). */
import type { Instant } from '../time/instant.ts';
import type { Fact } from '../measures/fact.ts';
import type { Facts } from '../measures/facts.ts';
import type { MeasureCall } from '../measures/measure.ts';
import { valueAt } from '../measures/timeline.ts';
import type { Value } from '../measures/value.ts';
import { storyStart } from '../course/course.ts';
import { leavesOf, type Comparator, type Condition } from './condition.ts';
import { testOf, thresholdOf } from './compare.ts';

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
  return leavesOf(condition).map((leaf) => {
    const { is, value: threshold, ...call } = leaf;
    const line = facts.timeline(person, leaf);
    const value = valueAt(line, t);
    const known = begun && line.kind !== 'none';
    return {
      ...call,
      value,
      is,
      threshold: thresholdOf(leaf, marks) ?? null,
      ...(typeof threshold === 'object' ? { mark: threshold.mark } : {}),
      verdict: known ? testOf(leaf, marks)(value) : null,
      fact: facts.fact(person, leaf, t),
    };
  });
}
