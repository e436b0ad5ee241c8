import { numberFrom } from '../../problem/range.ts';
import { dateWords, percentWords } from '../../time/words.ts';
import { windowSchema, windowWords } from '../../time/window.ts';
import { comparisonWords, type Measure, type MeasureCall, type Subject, belowZero } from '../values/measure.ts';
import { classMean, midnightSteps, type MeanAt } from './midnights.ts';
import { PERCENT_RANGE } from '../values/range.ts';
import { valueAt } from '../values/timeline.ts';
import { percent } from '../values/value.ts';
import { visits } from './visits.ts';
import { lastSeenOnly } from './visitsKnown.ts';
import { spokenWindow } from './windowed.ts';

const asVisits = (call: MeasureCall): MeasureCall => ({ ...call, measure: 'visits' });

/** How far a student's visits lie from the class's mean, in percent of it, as of the latest local midnight. */
export const visitsVsClass: Measure = {
  name: 'visitsVsClass',
  mergeField: 'student.visits_vs_class',
  classWide: 'activity',
  family: 'away',
  countsVisits: true,
  unit: 'percent',
  range: numberFrom(-PERCENT_RANGE.max!, PERCENT_RANGE.max),
  title: 'Visits compared with the class',
  parameters: { window: windowSchema.optional() },
  timeline(subject, call) {
    const own = visits.timeline(subject, asVisits(call));
    const mean = meanVisits(subject, call);
    return midnightSteps(subject, (midnight) => {
      const value = valueAt(own, midnight);
      const m = mean(midnight);
      return typeof value !== 'number' || !m ? null : percent(value - m, m);
    });
  },
  fact(subject, call, t) {
    const asOf = subject.course.calendar.dayStart(t);
    const unknown = lastSeenOnly(subject, asOf);
    if (unknown) return unknown;
    const own = valueAt(visits.timeline(subject, asVisits(call)), asOf);
    const mean = meanVisits(subject, call)(asOf);
    if (typeof own !== 'number' || mean === null) return { kind: 'last', what: 'visit', at: null };
    return { kind: 'class', own, mean, asOf };
  },
  valueWords: (value) =>
    value === 0
      ? 'as many visits as the class mean'
      : `${percentWords(Math.abs(value))} ${value < 0 ? 'fewer' : 'more'} visits than the class mean`,
  label: (call) => `visits compared with the class mean${windowWords(call.window, dateWords)}, %`,
  clause(test, call, course) {
    const when = spokenWindow(call.window, course);
    const below = belowZero(test);
    if (below) return { lead: 'visited', marked: `${comparisonWords(below)} less than the class${when}` };
    return { lead: 'visited', marked: `${comparisonWords(test)} beside the class mean${when}` };
  },
  known: (call, course) => {
    const what = `comparison of visits with the class${spokenWindow(call.window, course)}`;
    return [`no known ${what}`, `a known ${what}`];
  },
  phrases: [
    { say: 'visited {n:%} less|fewer than class [mean] {window}', isBelow: true },
    'visited {n:%} beside class mean {window}',
    { say: 'no known comparison of visits with class {window}', is: 'empty' },
    { say: 'known comparison of visits with class {window}', is: 'filled' },
  ],
};

/** A line before a student's history says nothing, so the mean leaves out students who had not begun, and those without known visits. */
const meanVisits = (subject: Subject, call: MeasureCall): MeanAt => {
  const asked = asVisits(call);
  return classMean(subject, asked, 'activity', (s) => visits.timeline(s, asked));
};
