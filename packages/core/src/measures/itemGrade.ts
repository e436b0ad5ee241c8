/** Measures of the latest grade of one item: its points, or those of one rubric criterion (engine M3). */
import { z } from 'zod';
import { counts } from '../course/course.ts';
import type { StoredGrade } from '../activity/history.ts';
import type { Fact } from './fact.ts';
import { comparisonWords, itemIndexOf, itemOf, type Measure, type MeasureCall, type Subject } from './measure.ts';
import { NOT_APPLICABLE, StepsBuilder, type Timeline } from './timeline.ts';

const gradesOf = (subject: Subject, call: MeasureCall): StoredGrade[] => {
  const index = itemIndexOf(subject.course, call);
  return subject.log.grades.filter((g) => g.item === index && g.criterion === (call.criterion ?? null));
};

function timeline(subject: Subject, call: MeasureCall): Timeline {
  if (!counts(itemOf(subject.course, call), subject.person)) return NOT_APPLICABLE;
  const steps = new StepsBuilder().set(subject.story, null);
  for (const g of gradesOf(subject, call)) steps.set(Math.max(g.at, subject.story), g.points);
  return steps.build();
}

function fact(subject: Subject, call: MeasureCall, t: number): Fact {
  if (!counts(itemOf(subject.course, call), subject.person)) return { kind: 'doesNotCount' };
  const latest = gradesOf(subject, call)
    .filter((g) => g.at <= t)
    .at(-1);
  if (!latest) return { kind: 'ungraded' };
  const of = call.criterion === undefined ? itemOf(subject.course, call).points : null;
  return { kind: 'score', points: latest.points, of, at: latest.at };
}

export const points: Measure = {
  name: 'points',
  mergeField: 'item.points',
  family: 'grades',
  unit: 'points',
  title: 'Points on an item',
  parameters: { item: z.string() },
  timeline,
  fact,
  label: (call, course) => `points on ${itemOf(course, call).title}`,
  clause: (test, call, course) => ({
    lead: 'have',
    marked: `${comparisonWords(test)} on ${itemOf(course, call).title}`,
  }),
};

export const criterion: Measure = {
  name: 'criterion',
  mergeField: 'item.criterion',
  family: 'grades',
  unit: 'points',
  title: 'Points for a rubric criterion',
  parameters: { item: z.string(), criterion: z.string().min(1) },
  timeline,
  fact,
  label: (call, course) => `points for ${call.criterion} on ${itemOf(course, call).title}`,
  clause: (test, call, course) => ({
    lead: 'have',
    marked: `${comparisonWords(test)} for ${call.criterion} on ${itemOf(course, call).title}`,
  }),
};
