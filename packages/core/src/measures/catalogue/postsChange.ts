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
import { postsOf } from './posts.ts';
import { severalParameters, severalWords } from './several.ts';

/** Posts of the last days minus those of as many days before. */
export const postsChange: Measure = {
  name: 'postsChange',
  mergeField: 'student.posts_change',
  family: 'discussion',
  unit: 'count',
  range: CHANGE_RANGE,
  title: 'Posts compared with the days before',
  parameters: { ...severalParameters, ...changeParameters },
  ranges: changeRanges,
  timeline: (subject, call) => changeSteps(postsOf(subject, call), call, subject),
  fact: (subject, call, t) => changeFact('post', postsOf(subject, call), call.days ?? 0, t, subject.course.calendar),
  valueWords: (value, call) => changeValueWords(value, call, 'post'),
  label: (call, course) => `change in posts${severalWords(call, course)}, last ${plural(call.days ?? 0, 'day')}`,
  clause: (test, call, course) => changeClause(test, call, 'post', severalWords(call, course)),
  known: (call, course) => {
    const span = `${severalWords(call, course)} in the last ${plural(call.days ?? 0, 'day')}`;
    return [`no known change in posts${span}`, `a known change in posts${span}`];
  },
  phrases: changePhrases('post', ' {several}'),
};
