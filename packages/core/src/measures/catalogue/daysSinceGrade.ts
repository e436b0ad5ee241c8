import { countDays } from './days.ts';
import { gradesOf, latestAt } from './gradesOver.ts';
import { comparisonWords, type Measure } from '../values/measure.ts';
import { severalParameters, severalWords } from './several.ts';
import { NumbersBuilder } from '../values/numbersBuilder.ts';

export const daysSinceGrade: Measure = {
  name: 'daysSinceGrade',
  mergeField: 'student.days_since_grade',
  family: 'grades',
  unit: 'days',
  title: 'Days since the latest grade',
  parameters: severalParameters,
  timeline(subject, call) {
    const steps = new NumbersBuilder().set(subject.story, null);
    const instants = [...new Set(gradesOf(subject, call).map((g) => g.at))];
    instants.forEach((at, i) => {
      const until = instants[i + 1] ?? Math.max(subject.horizon, at + 1, subject.story + 1);
      if (until > subject.story) countDays(steps, subject.course.calendar, at, Math.max(at, subject.story), until);
    });
    return steps.build();
  },
  fact: (subject, call, t) => ({ kind: 'last', what: 'grade', at: latestAt(subject, call, t)?.at ?? null }),
  label: (call, course) => `days since the latest grade${severalWords(call, course)}`,
  clause: (test, call, course) => ({
    lead: 'got',
    marked: `their latest grade${severalWords(call, course)} ${comparisonWords(test)} ago`,
  }),
  known: (call, course) => [
    `no latest grade${severalWords(call, course)}`,
    `a latest grade${severalWords(call, course)}`,
  ],
  phrases: [
    '[their] latest grade {several} {n:days} ago',
    { say: 'no latest grade {several}', is: 'empty' },
    { say: 'latest grade {several}', is: 'filled' },
  ],
};
