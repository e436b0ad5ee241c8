import { countDays } from './days.ts';
import { comparisonWords, type Measure } from '../values/measure.ts';
import { NumbersBuilder } from '../values/numbersBuilder.ts';

/** Whole calendar days since enrollment. */
export const daysEnrolled: Measure = {
  name: 'daysEnrolled',
  mergeField: 'student.days_enrolled',
  family: 'away',
  unit: 'days',
  title: 'Days since enrollment',
  parameters: {},
  timeline(subject) {
    const steps = new NumbersBuilder();
    const until = Math.max(subject.horizon, subject.story + 1);
    countDays(steps, subject.course.calendar, subject.person.enrolledAt, subject.story, until);
    return steps.build();
  },
  fact: (subject) => ({ kind: 'last', what: 'enrollment', at: subject.person.enrolledAt }),
  label: () => 'days since enrollment',
  clause: (test) => ({ lead: 'have been', marked: `enrolled for ${comparisonWords(test)}` }),
  known: () => ['no known enrollment', 'a known enrollment'],
  phrases: [
    'enrolled [for] {n:days}',
    { say: 'no known enrollment', is: 'empty' },
    { say: 'known enrollment', is: 'filled' },
  ],
};
