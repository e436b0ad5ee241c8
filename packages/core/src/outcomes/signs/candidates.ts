/** Which single comparisons may be signs, each with the direction that worries (engine S2). */
import type { Leaf } from '../../conditions/condition.ts';
import type { Course } from '../../course/course.ts';
import { ABSENCES, type MeasureCall, type MeasureName } from '../../measures/values/measure.ts';
import type { Instant } from '../../time/instant.ts';

/** Whom a candidate finds: anyone who has at least, or at most, so much of it; or anyone who has not done it. */
export type WorryDirection = '>=' | '<=' | 'undone';

export interface Candidate {
  readonly call: MeasureCall;
  readonly worry: WorryDirection;
  /** Only where at least half of those looked at have a known value. */
  readonly halfKnown: boolean;
}

/** A score under which a grade is low. */
const LOW_SCORE = 60;
const LATELY_DAYS = 14;

/** In the order of the engine page. `by`: when signs are read; what is due later cannot be undone yet. */
export function candidatesOf(course: Course, by: Instant): readonly Candidate[] {
  const groups = [...new Set(course.items.flatMap((i) => i.group ?? []))];
  const ofGroups = (measure: MeasureName): MeasureCall[] => groups.map((group) => ({ measure, group }));
  const last = (days: number): MeasureCall => ({ measure: 'visits', window: { last: { days } } });
  const more: readonly MeasureCall[] = [
    ...[...ABSENCES, 'longestGap' as const, 'missing' as const].map(plain),
    ...ofGroups('missing'),
    ...(['late', 'absences'] as const).map(plain),
    { measure: 'lowScores', than: LOW_SCORE },
    { measure: 'daysSinceGrade' },
  ];
  const less: readonly MeasureCall[] = [
    ...[last(7), last(LATELY_DAYS), { measure: 'visits' } as const],
    ...(['open', 'practice', 'submit', 'post'] as const).map((of): MeasureCall => ({ measure: 'share', of })),
    { measure: 'onTimeShare' },
    ...ofGroups('onTimeShare'),
    ...(['posts', 'courseGrade'] as const).map(plain),
    ...ofGroups('groupGrade'),
    ...(['gradeVsClass', 'latestScore'] as const).map(plain),
    { measure: 'gradeChange', days: LATELY_DAYS },
  ];
  const graded = course.items.filter((i) => i.points !== null && i.points > 0);
  const due = course.items.filter((i) => i.kind !== 'page' && i.dueAt !== null && i.dueAt <= by);
  const as =
    (worry: WorryDirection, halfKnown = false) =>
    (call: MeasureCall): Candidate => ({ call, worry, halfKnown });
  return [
    ...more.map(as('>=')),
    ...less.map(as('<=')),
    ...graded.map((i): MeasureCall => ({ measure: 'score', item: i.id })).map(as('<=', true)),
    ...due.map((i): MeasureCall => ({ measure: 'submitted', item: i.id })).map(as('undone')),
  ];
}

const plain = (measure: MeasureName): MeasureCall => ({ measure });

/** A candidate as a condition. `threshold`: plays no part where something is undone. */
export const conditionOf = ({ call, worry }: Candidate, threshold: number): Leaf =>
  worry === 'undone' ? { ...call, is: 'equals', value: false } : { ...call, is: worry, value: threshold };
