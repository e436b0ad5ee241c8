/** Signs that an outcome is made of: what they tell early is what will be asked later, and no news. */
import { leavesOf, type Condition } from '../../conditions/condition.ts';
import { GRADE_MEASURES, type MeasureName } from '../../measures/values/measure.ts';

/** Why a sign is part of the outcome itself: it is the same measure, or is computed from the same grades; null where it is not. */
export function partOfOutcome(sign: Condition, outcome: Condition): 'measure' | 'grades' | null {
  const asked = new Set(leavesOf(outcome).map((leaf) => leaf.measure));
  const read = leavesOf(sign).map((leaf) => leaf.measure);
  if (read.some((measure) => asked.has(measure))) return 'measure';
  const isGraded = (measure: MeasureName) => GRADE_MEASURES.includes(measure);
  return read.some(isGraded) && [...asked].some(isGraded) ? 'grades' : null;
}
