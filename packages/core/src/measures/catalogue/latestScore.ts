import { gradesFact, gradesOf, latestAt, scoreOf } from './gradesOver.ts';
import { type Measure, ofWords } from '../values/measure.ts';
import { severalParameters, severalWords } from './several.ts';
import { NumbersBuilder } from '../values/numbersBuilder.ts';

export const latestScore: Measure = {
  name: 'latestScore',
  mergeField: 'student.latest_score',
  family: 'grades',
  unit: 'percent',
  title: 'Latest score',
  parameters: severalParameters,
  timeline(subject, call) {
    const steps = new NumbersBuilder().set(subject.story, null);
    for (const g of gradesOf(subject, call)) steps.set(Math.max(g.at, subject.story), scoreOf(subject, g));
    return steps.build();
  },
  fact(subject, call, t) {
    const latest = latestAt(subject, call, t);
    return latest ? gradesFact(subject, [latest]) : { kind: 'ungraded' };
  },
  label: (call, course) => `latest score${severalWords(call, course)}`,
  clause: (test, call, course) => ({
    lead: 'have',
    marked: `a latest score ${ofWords(test)}${severalWords(call, course)}`,
  }),
  known: (call, course) => [
    `no latest score${severalWords(call, course)}`,
    `a latest score${severalWords(call, course)}`,
  ],
  phrases: [
    'latest score [of] {n:%} {several}',
    { say: 'no latest score {several}', is: 'empty' },
    { say: 'latest score {several}', is: 'filled' },
  ],
};
