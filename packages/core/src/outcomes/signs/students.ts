/** The students found by a condition that is read early, beside their outcome: each with the values involved. */
import { leavesOf, type Condition } from '../../conditions/condition.ts';
import { sidesOf } from '../../conditions/evaluate.ts';
import { valueAt } from '../../measures/values/timeline.ts';
import type { Value } from '../../measures/values/value.ts';
import { contains } from '../../time/stretches.ts';
import type { HindsightCell } from '../hindsight.ts';
import { populationOf, type SignsOf } from './population.ts';

export interface SignStudent {
  readonly student: string;
  readonly cell: HindsightCell;
  /** What each comparison of the condition read, in its order; null for unknown. */
  readonly values: readonly Value[];
}

/** In roster order. */
export function signStudents(of: SignsOf, condition: Condition): SignStudent[] {
  const { facts, by } = of;
  const sides = sidesOf(facts, condition);
  const lines = leavesOf(condition).map((leaf) => facts.timelinesOf(leaf));
  return populationOf([of]).members.map(({ person, worried }) => {
    const isFound = contains(sides(person, true), by);
    return {
      student: facts.course.people[person]!.id,
      cell: worried ? (isFound ? 'found' : 'missed') : isFound ? 'needless' : 'leftAlone',
      values: lines.map((line) => valueAt(line(person), by)),
    };
  });
}
