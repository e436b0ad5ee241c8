import { kindMask } from '../../activity/event.ts';
import { dateWords, plural } from '../../time/words.ts';
import { windowSchema, windowWords } from '../../time/window.ts';
import { comparisonWords, type Measure } from '../values/measure.ts';
import { countInWindow, inWindowAt } from './windowed.ts';

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
  clause(test, call) {
    const value = typeof test.raw === 'number' ? plural(test.raw, 'absence') : test.value;
    return { lead: 'have', marked: `${comparisonWords({ ...test, value })}${windowWords(call.window, dateWords)}` };
  },
};
