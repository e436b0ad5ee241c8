import { plural } from '../../time/words.ts';
import type { Measure } from '../values/measure.ts';
import {
  CHANGE_RANGE,
  changeClause,
  changeFact,
  changeParameters,
  changePhrases,
  changeRanges,
  changeSteps,
  changeValueWords,
} from './change.ts';
import { sittings } from './visits.ts';
import { lastSeenOnly, whereVisitsAreKnown } from './visitsKnown.ts';

/** Visits of the last days minus those of as many days before. */
export const visitsChange: Measure = {
  name: 'visitsChange',
  mergeField: 'student.visits_change',
  family: 'away',
  countsVisits: true,
  unit: 'count',
  range: CHANGE_RANGE,
  title: 'Visits compared with the days before',
  parameters: changeParameters,
  ranges: changeRanges,
  timeline: (subject, call) => whereVisitsAreKnown(subject, changeSteps(sittings(subject), call, subject)),
  fact: (subject, call, t) =>
    lastSeenOnly(subject, t) ?? changeFact('visit', sittings(subject), call.days ?? 0, t, subject.course.calendar),
  valueWords: (value, call) => changeValueWords(value, call, 'visit'),
  label: (call) => `change in visits, last ${plural(call.days ?? 0, 'day')}`,
  clause: (test, call) => changeClause(test, call, 'visit', ''),
  known: ({ days = 0 }) => {
    const span = `in the last ${plural(days, 'day')}`;
    return [`no known change in visits ${span}`, `a known change in visits ${span}`];
  },
  phrases: [...changePhrases('visit', ''), { say: 'less active than {days} ago|before', is: '<', value: 0 }],
};
