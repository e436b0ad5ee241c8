import { z } from 'zod';
import { kindMask } from '../../activity/event.ts';
import { counts } from '../../course/course.ts';
import { countDays } from './days.ts';
import {
  comparisonWords,
  itemIndexOf,
  itemOf,
  type Measure,
  type MeasureCall,
  type Subject,
  spokenItem,
} from '../values/measure.ts';
import { NumbersBuilder } from '../values/numbersBuilder.ts';
import { NOT_APPLICABLE } from '../values/timeline.ts';

const SUBMIT = kindMask('submit');

function span(subject: Subject, call: MeasureCall): { submitted: number; graded: number } {
  const index = itemIndexOf(subject.course, call);
  const grade = subject.log.grades.find((g) => g.item === index && g.criterion === null);
  return { submitted: subject.log.first(SUBMIT, index), graded: grade?.at ?? Infinity };
}

/** Whole calendar days since the first submission while there is no grade; unknown otherwise. */
export const daysAwaitingGrade: Measure = {
  name: 'daysAwaitingGrade',
  mergeField: 'item.days_awaiting_grade',
  family: 'grades',
  unit: 'days',
  title: 'Days waiting for a grade',
  parameters: { item: z.string() },
  timeline(subject, call) {
    if (!counts(itemOf(subject.course, call), subject.person)) return NOT_APPLICABLE;
    const steps = new NumbersBuilder().set(subject.story, null);
    const { submitted, graded } = span(subject, call);
    const from = Math.max(submitted, subject.story);
    if (submitted === Infinity || graded <= from) return steps.build();
    countDays(steps, subject.course.calendar, submitted, from, Math.min(graded, Math.max(subject.horizon, from + 1)));
    if (graded < Infinity) steps.set(graded, null);
    return steps.build();
  },
  fact(subject, call, t) {
    if (!counts(itemOf(subject.course, call), subject.person)) return { kind: 'doesNotCount' };
    const { submitted } = span(subject, call);
    return { kind: 'last', what: 'submission', at: submitted <= t ? submitted : null };
  },
  label: (call, course) => `days waiting for a grade on ${itemOf(course, call).title}`,
  clause: (test, call, course) => ({
    lead: 'have',
    marked: `waited ${comparisonWords(test)} for a grade on ${spokenItem(course, call)}`,
  }),
  known: (call, course) => [
    `no open wait for a grade on ${spokenItem(course, call)}`,
    `an open wait for a grade on ${spokenItem(course, call)}`,
  ],
  phrases: [
    'waited|waiting [for] {n:days} for grade on {item}',
    { say: 'no open wait for grade on {item}', is: 'empty' },
    { say: 'open wait for grade on {item}', is: 'filled' },
  ],
};
