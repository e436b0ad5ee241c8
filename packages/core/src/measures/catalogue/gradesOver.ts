/** What measures over the grades of several items share (engine M2, H6). */
import { counts } from '../../course/course.ts';
import type { StoredGrade } from '../../activity/history.ts';
import type { Fact } from '../values/fact.ts';
import { severalItems, type MeasureCall, type Subject } from '../values/measure.ts';
import { percent } from '../values/value.ts';

/** Grades of the call's items that count, criteria aside, in order; at one instant the later item in the course last. */
export function gradesOf(subject: Subject, call: MeasureCall): StoredGrade[] {
  const wanted = new Set(
    severalItems(subject.course, call).filter((i) => counts(subject.course.items[i]!, subject.person)),
  );
  const grades = subject.log.grades.filter((g) => g.criterion === null && wanted.has(g.item));
  return grades
    .map((g, i) => [g, i] as const)
    .sort((a, b) => a[0].at - b[0].at || a[0].item - b[0].item || a[1] - b[1])
    .map(([g]) => g);
}

export const scoreOf = (subject: Subject, g: StoredGrade): number | null => {
  const possible = subject.course.items[g.item]!.points;
  return possible ? percent(g.points, possible) : null;
};

export function gradesFact(subject: Subject, grades: readonly StoredGrade[]): Fact {
  return {
    kind: 'grades',
    grades: grades.map((g) => ({ title: subject.course.items[g.item]!.title, score: scoreOf(subject, g), at: g.at })),
  };
}

export const latestAt = (subject: Subject, call: MeasureCall, t: number) =>
  gradesOf(subject, call)
    .filter((g) => g.at <= t)
    .at(-1);
