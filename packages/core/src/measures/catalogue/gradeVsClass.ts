import { z } from 'zod';
import { counts } from '../../course/course.ts';
import { courseGrade } from './courseGrade.ts';
import type { Fact } from '../values/fact.ts';
import { groupGrade } from './groupGrade.ts';
import { plural, oneDecimal } from '../../time/words.ts';
import {
  comparisonWords,
  itemOf,
  type Measure,
  type MeasureCall,
  type Subject,
  belowZero,
  spokenItem,
} from '../values/measure.ts';
import { classMean, midnights } from './midnights.ts';
import { score } from './score.ts';
import { NumbersBuilder } from '../values/numbersBuilder.ts';
import { changesOf, NOT_APPLICABLE, valueAt, type Timeline } from '../values/timeline.ts';
import { round9 } from '../values/value.ts';
import { spokenName } from '../../course/spokenName.ts';

/** The percentage that is compared: of an item, of a group, or of the course. */
function own(subject: Subject, call: MeasureCall): Timeline {
  if (call.item !== undefined) return score.timeline(subject, call);
  return (call.group === undefined ? courseGrade : groupGrade).timeline(subject, call);
}

const doesNotCount = (subject: Subject, call: MeasureCall): boolean =>
  call.item !== undefined && !counts(itemOf(subject.course, call), subject.person);

/** How many points a student's percentage lies over the class's mean as of the latest local midnight. */
export const gradeVsClass: Measure = {
  name: 'gradeVsClass',
  mergeField: 'student.grade_vs_class',
  classWide: 'grades',
  family: 'grades',
  unit: 'points',
  title: 'Grade compared with the class',
  parameters: { item: z.string().optional(), group: z.string().optional() },
  timeline(subject, call) {
    if (doesNotCount(subject, call)) return NOT_APPLICABLE;
    const line = own(subject, call);
    const meanOn = classMean(subject, call, 'grades', (s) => own(s, call));
    const steps = new NumbersBuilder();
    const nights = midnights(subject, subject.story);
    const moments = [...new Set([...nights.map((t) => Math.max(t, subject.story)), ...changesOf(line)])].sort(
      (a, b) => a - b,
    );
    let night = 0;
    let mean = meanOn(nights[0]!);
    for (const t of moments) {
      while (night + 1 < nights.length && nights[night + 1]! <= t) mean = meanOn(nights[++night]!);
      const value = valueAt(line, t);
      steps.set(t, typeof value === 'number' && mean !== null ? round9(value - mean) : null);
    }
    return steps.build();
  },
  fact(subject, call, t): Fact {
    if (doesNotCount(subject, call)) return { kind: 'doesNotCount' };
    const asOf = subject.course.calendar.dayStart(t);
    const value = valueAt(own(subject, call), t);
    const mean = classMean(subject, call, 'grades', (s) => own(s, call))(asOf);
    if (typeof value !== 'number' || mean === null) return { kind: 'ungraded' };
    return { kind: 'class', own: value, mean, asOf };
  },
  valueWords: (value) =>
    value === 0
      ? 'the same as the class mean'
      : `${plural(Number(oneDecimal(Math.abs(value))), 'point')} ${value < 0 ? 'below' : 'above'} the class mean`,
  label: (call, course) => `points above the class mean${whereWords(call, course)}`,
  clause(test, call, course) {
    const where = whereWords(call, course);
    const below = belowZero(test);
    if (below) return { lead: 'are', marked: `${comparisonWords(below)} below the class mean${where}` };
    return { lead: 'are', marked: `${comparisonWords(test)} above the class mean${where}` };
  },
  known: (call, course) => [
    `no known distance from the class mean${whereWords(call, course)}`,
    `a known distance from the class mean${whereWords(call, course)}`,
  ],
  phrases: ['', ' on {item}', ' in {group}'].flatMap((where) => [
    { say: `{n:points} below|under class mean|average${where}`, isBelow: true } as const,
    `{n:points} above class mean|average${where}`,
    { say: `no known distance from class mean${where}`, is: 'empty' } as const,
    { say: `known distance from class mean${where}`, is: 'filled' } as const,
  ]),
};

function whereWords(call: MeasureCall, course: Subject['course']): string {
  if (call.item !== undefined) return ` on ${spokenItem(course, call)}`;
  return call.group === undefined ? '' : ` in ${spokenName(course, 'group', call.group)}`;
}
