import { describe, expect, test } from '@jest/globals';
import { at, courseOf, item, person } from '../testing/build.ts';
import { HOUR } from '../time/instant.ts';
import { boundsOf } from './bounds.ts';
import { valueOf } from '../testing/build.ts';
import { parseCondition } from './condition.ts';

const START = '2026-08-31T00:00';
/** Dues of “Quizzes”, in order: Sep 13, Sep 20 (an extension of q1), Sep 27; q2 is first in the course. */
const course = courseOf({
  people: [person('p1'), person('p2', { section: '02' })],
  breaks: [{ from: '2026-09-03', to: '2026-09-04' }],
  items: [
    item('q2', { dueAt: at('2026-09-27T23:59'), group: 'Quizzes' }),
    item('q1', {
      opensAt: at('2026-09-07T00:00'),
      dueAt: at('2026-09-13T23:59'),
      extensions: [{ section: '02', dueAt: at('2026-09-20T23:59') }],
      group: 'Quizzes',
    }),
    item('endless', { group: 'Open' }),
    item('lab', { group: 'Open', opensAt: at('2026-09-09T08:00') }),
  ],
});
const bounds = (draft: unknown) => boundsOf(valueOf(parseCondition(draft)), course);

const days = (is: string, value: number) => ({ measure: 'daysSinceVisit', is, value });
const leaf = (measure: string, is: string, value?: unknown, more: object = {}) => ({
  measure,
  ...more,
  is,
  ...(value === undefined ? {} : { value }),
});
const quizzes = { group: 'Quizzes' };
const q1 = { item: 'q1' };

describe('no condition can hold before', () => {
  test.each([
    // The 3rd and 4th are days of a break, on which nobody is away.
    ['five days away', days('>=', 5), '2026-09-07T00:00'],
    ['just five days away', days('equals', 5), '2026-09-07T00:00'],
    ['over five days away', days('>', 5), '2026-09-08T00:00'],
    ['four and a half days away', days('>=', 4.5), '2026-09-07T00:00'],
    ['over four and a half days away', days('>', 4.5), '2026-09-07T00:00'],
    ['no absence at all', days('<', 5), START],
    ['five days at most', days('<=', 5), START],
    ['anything but five days', days('differs', 5), START],
    ['no days away or more', days('>=', 0), START],
    ['a gap of five days', leaf('longestGap', '>=', 5), '2026-09-07T00:00'],
    ['five days without signing in', leaf('daysSinceSignIn', '>=', 5), '2026-09-07T00:00'],
    ['five days without taking part', leaf('daysSinceParticipation', '>=', 5), '2026-09-07T00:00'],
    ['no visit yet', leaf('daysSinceVisit', 'empty'), START],
    // Days enrolled are days of the calendar.
    ['two weeks enrolled', leaf('daysEnrolled', '>=', 14), '2026-09-14T00:00'],
    ['two weeks enrolled at most', leaf('daysEnrolled', '<=', 14), START],
    ['one missing quiz', leaf('missing', '>=', 1, quizzes), '2026-09-13T23:59'],
    ['two missing quizzes', leaf('missing', '>=', 2, quizzes), '2026-09-20T23:59'],
    ['three missing quizzes', leaf('missing', '>', 2, quizzes), '2026-09-27T23:59'],
    ['more missing quizzes than there are', leaf('missing', '>=', 9, quizzes), START],
    ['no missing quiz', leaf('missing', '>=', 0, quizzes), START],
    ['fewer than two missing quizzes', leaf('missing', '<', 2, quizzes), START],
    ['two late quizzes', leaf('late', '>=', 2, quizzes), '2026-09-20T23:59'],
    ['two late items of the course', leaf('late', '>=', 2), '2026-09-20T23:59'],
    ['what is never due', leaf('missing', '>=', 1, { group: 'Open' }), START],
    ['a share on time', leaf('onTimeShare', '<', 50, quizzes), '2026-09-13T23:59'],
    ['no share on time yet', leaf('onTimeShare', 'empty', undefined, quizzes), START],
    ['a run of two', leaf('streak', '>=', 2, { of: 'missed', ...quizzes }), '2026-09-20T23:59'],
    ['a run of at most two', leaf('streak', '<=', 2, { of: 'missed', ...quizzes }), START],
    ['something due within two days', leaf('dueSoon', '>=', 1, { hours: 48, ...quizzes }), '2026-09-11T23:59'],
    ['something due by tomorrow', leaf('dueSoon', '>=', 1, { days: 1, ...quizzes }), '2026-09-12T00:00'],
    ['nothing due within two days', leaf('dueSoon', '<', 1, { hours: 48, ...quizzes }), START],
    ['a score', leaf('score', '<=', 50, q1), '2026-09-07T00:00'],
    ['a score above a mark', leaf('score', '>=', { mark: 'mastery' }, q1), '2026-09-07T00:00'],
    ['a score on what is always open', leaf('score', '<=', 50, { item: 'q2' }), START],
    ['no score yet', leaf('score', 'empty', undefined, q1), START],
    ['points', leaf('points', '<=', 5, q1), '2026-09-07T00:00'],
    ['points for one criterion', leaf('criterion', '<=', 5, { ...q1, criterion: 'Plot' }), '2026-09-07T00:00'],
    ['no points for one criterion yet', leaf('criterion', 'empty', undefined, { ...q1, criterion: 'Plot' }), START],
    ['a score on an item that is gone', leaf('score', '<=', 50, { item: 'gone' }), START],
    ['two days without a grade', leaf('daysAwaitingGrade', '>=', 2, q1), '2026-09-09T00:00'],
    ['over two days without a grade', leaf('daysAwaitingGrade', '>', 2, q1), '2026-09-10T00:00'],
    ['waiting for a grade at all', leaf('daysAwaitingGrade', '<=', 9, q1), '2026-09-07T00:00'],
    [
      'waiting for a grade of what is always open',
      leaf('daysAwaitingGrade', '>=', 2, { item: 'q2' }),
      '2026-09-02T00:00',
    ],
    // The first that is due for anybody.
    ['two days before it is due', leaf('hoursUntilDue', '<=', 48, q1), '2026-09-11T23:59'],
    ['under two days before it is due', leaf('hoursUntilDue', '<', 48, q1), '2026-09-11T23:59'],
    ['months before it is due', leaf('hoursUntilDue', '<=', 9000, q1), START],
    ['more than two days before it is due', leaf('hoursUntilDue', '>', 48, q1), START],
    ['just two days before it is due', leaf('hoursUntilDue', 'equals', 48, q1), START],
    ['what is never due, soon', leaf('hoursUntilDue', '<=', 48, { item: 'endless' }), START],
    ['no due date', leaf('hoursUntilDue', 'empty', undefined, q1), START],
    ['a mark that is gone', leaf('score', '>=', { mark: 'gone' }, { item: 'q2' }), START],
    ['submissions', leaf('submitted', 'equals', true, q1), START],
    ['both of two', { all: [days('>=', 5), leaf('score', '<=', 50, { item: 'lab' })] }, '2026-09-09T08:00'],
    ['one of two', { any: [days('>=', 5), leaf('score', '<=', 50, { item: 'lab' })] }, '2026-09-07T00:00'],
    ['neither of two', { none: [days('>=', 5), leaf('score', '<=', 50, q1)] }, START],
  ])('%s', (_name, draft, earliest) => {
    expect(bounds(draft).earliest).toBe(at(earliest));
  });
});

describe('no condition can hold from', () => {
  const q1Due = at('2026-09-20T23:59');
  test.each([
    ['hours left', leaf('hoursUntilDue', '>', 0, q1), q1Due],
    ['two days left', leaf('hoursUntilDue', '>', 48, q1), q1Due - 48 * HOUR],
    // At that instant there are just 48 hours left.
    ['at least two days left', leaf('hoursUntilDue', '>=', 48, q1), q1Due - 48 * HOUR + 1],
    ['two days left at most', leaf('hoursUntilDue', '<=', 48, q1), Infinity],
    ['hours to a mark that is gone', leaf('hoursUntilDue', '>', { mark: 'gone' }, q1), Infinity],
    ['what is never due', leaf('hoursUntilDue', '>', 48, { item: 'endless' }), Infinity],
    ['what is gone', leaf('hoursUntilDue', '>', 48, { item: 'gone' }), Infinity],
    ['no due date', leaf('hoursUntilDue', 'empty', undefined, q1), Infinity],
    ['something due soon', leaf('dueSoon', '>=', 1, { hours: 48, ...quizzes }), at('2026-09-27T23:59')],
    ['something due soon among what never is', leaf('dueSoon', '>=', 1, { hours: 48, group: 'Open' }), Infinity],
    ['nothing due soon', leaf('dueSoon', '<=', 0, { hours: 48, ...quizzes }), Infinity],
    ['any number due soon', leaf('dueSoon', '>=', 0, { hours: 48, ...quizzes }), Infinity],
    ['a score', leaf('score', '>', 48, q1), Infinity],
    ['missing work', leaf('missing', '>=', 1, quizzes), Infinity],
    ['both of two', { all: [leaf('hoursUntilDue', '>', 0, q1), days('>=', 5)] }, q1Due],
    ['one of two', { any: [leaf('hoursUntilDue', '>', 0, q1), days('>=', 5)] }, Infinity],
    ['none of two', { none: [leaf('hoursUntilDue', '>', 0, q1)] }, Infinity],
  ])('its end: %s', (_name, draft, latest) => {
    expect(bounds(draft).latest).toBe(latest);
  });
});
