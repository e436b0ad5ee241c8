import { kindMask } from '../../activity/event.ts';
import { dateWords } from '../../time/words.ts';
import { windowSchema, windowWords } from '../../time/window.ts';
import { comparisonWords, type Measure, counted } from '../values/measure.ts';
import { countInWindow, inWindowAt, spokenWindow } from './windowed.ts';

const ABSENT = kindMask('absent');

/** Sessions the student was marked absent from, ever or in a window. */
export const absences: Measure = {
  name: 'absences',
  mergeField: 'student.absences',
  family: 'attendance',
  unit: 'count',
  title: 'Absences',
  parameters: { window: windowSchema.optional() },
  timeline: (subject, call) =>
    countInWindow(subject.log.instants(ABSENT), call.window, subject.story, subject.course.calendar),
  fact: (subject, call, t) => ({
    kind: 'last',
    what: 'absence',
    at:
      subject.log
        .instants(ABSENT)
        .filter((x) => inWindowAt(x, call.window, t, subject.course.calendar))
        .at(-1) ?? null,
  }),
  label: (call) => `absences${windowWords(call.window, dateWords)}`,
  clause: (test, call, course) => ({
    lead: 'have',
    marked: `${comparisonWords({ ...test, value: counted(test, 'absence') })}${spokenWindow(call.window, course)}`,
  }),
  known: (call, course) => [
    `no known absences${spokenWindow(call.window, course)}`,
    `a known number of absences${spokenWindow(call.window, course)}`,
  ],
  phrases: [
    '{n:absence|absences} {window}',
    { say: 'no known absences {window}', is: 'empty' },
    { say: 'known number of absences {window}', is: 'filled' },
    { say: 'no absences {window}', is: '<', value: 1 },
    'absent {n:times} {window}',
  ],
};
