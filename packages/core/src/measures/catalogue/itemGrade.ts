/** What measures of the latest grade of one item: its points, or those of one rubric criterion, share (engine M3). */
import { counts } from '../../course/course.ts';
import type { StoredGrade } from '../../activity/history.ts';
import type { Fact } from '../values/fact.ts';
import { itemIndexOf, itemOf, type MeasureCall, type Subject } from '../values/measure.ts';
import { NumbersBuilder } from '../values/numbersBuilder.ts';
import { NOT_APPLICABLE, type Timeline } from '../values/timeline.ts';

const gradesOf = (subject: Subject, call: MeasureCall): StoredGrade[] => {
  const index = itemIndexOf(subject.course, call);
  return subject.log.grades.filter((g) => g.item === index && g.criterion === (call.criterion ?? null));
};

export function itemGradeLine(subject: Subject, call: MeasureCall): Timeline {
  if (!counts(itemOf(subject.course, call), subject.person)) return NOT_APPLICABLE;
  const steps = new NumbersBuilder().set(subject.story, null);
  for (const g of gradesOf(subject, call)) steps.set(Math.max(g.at, subject.story), g.points);
  return steps.build();
}

export function itemGradeFact(subject: Subject, call: MeasureCall, t: number): Fact {
  if (!counts(itemOf(subject.course, call), subject.person)) return { kind: 'doesNotCount' };
  const latest = gradesOf(subject, call)
    .filter((g) => g.at <= t)
    .at(-1);
  if (!latest) return { kind: 'ungraded' };
  const possible = call.criterion === undefined ? itemOf(subject.course, call).points : null;
  return { kind: 'score', points: latest.points, of: possible, at: latest.at };
}
