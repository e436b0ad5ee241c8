/**
 * Fifty sentences, ten each about absence, content, work, grades, and limits and rhythm, as five different people would type them. They
 * were written down before anything read them. What people type is common practice, no source.
 */
import { expect, test } from '@jest/globals';
import { SAYING_COURSE } from '../testing/sayingCourse.ts';
import { say } from './say.ts';

const away = (value: number, is = '>=') => ({ measure: 'daysSinceVisit', is, value });
const student = (when: unknown) => ({ when });
const opened = (item: string, more = {}) => ({ measure: 'opens', item, is: '<', value: 1, ...more });
const done = (item: string, value: boolean) => ({ measure: 'submitted', item, is: 'equals', value });
const weekdays = 'FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR';

test.each<[string, unknown]>([
  // Absence
  ['students who have not visited the course for 5 days', student(away(5))],
  ['away a week', student(away(7))],
  ['absent more than 10 days', student(away(10, '>'))],
  ["Haven't been here in 2 weeks", student(away(14))],
  ['no sign-in for 3 days', student({ measure: 'daysSinceSignIn', is: '>=', value: 3 })],
  ['inactive for five days', student({ measure: 'daysSinceParticipation', is: '>=', value: 5 })],
  ['never visited', student({ measure: 'visits', is: '<', value: 1 })],
  ['no visit this week', student({ measure: 'visits', window: { this: 'week' }, is: '<', value: 1 })],
  [
    'fewer than 3 visits in the last 14 days',
    student({ measure: 'visits', window: { last: { days: 14 } }, is: '<', value: 3 }),
  ],
  ['away between 5 and 9 days', student({ all: [away(5), away(9, '<=')] })],
  // Content
  ['never opened the syllabus', student(opened('syllabus'))],
  ['Syllabus not opened', student(opened('syllabus'))],
  [
    'didn’t open Reading: tides, currents, and wind in the last week',
    student(opened('reading', { window: { last: { days: 7 } } })),
  ],
  ['opened Tide drill', student({ measure: 'opens', item: 'drill', is: '>=', value: 1 })],
  ['opened the syllabus at least 3 times', student({ measure: 'opens', item: 'syllabus', is: '>=', value: 3 })],
  [
    'have opened under 50% of the items in Readings',
    student({ measure: 'share', of: 'open', group: 'Readings', is: '<', value: 50 }),
  ],
  [
    'opened less than half of the readings',
    student({ measure: 'share', of: 'open', group: 'Readings', is: '<', value: 50 }),
  ],
  [
    'have not posted in Discussions since Oct 5',
    student({ measure: 'posts', group: 'Discussions', window: { since: '2026-10-05' }, is: '<', value: 1 }),
  ],
  ['never opened the sylabus', [{ from: 17, to: 24, code: 'unknownWord', near: ['Syllabus walk-through'] }]],
  ['away 5 days or syllabus not opened', student({ any: [away(5), opened('syllabus')] })],
  // Work
  ['did not turn in Essay 1', student(done('e1', false))],
  ['Essay 1 not turned in', student(done('e1', false))],
  ['handed in essay 2', student(done('e2', true))],
  ['missing 2 essays or more', student({ measure: 'missing', group: 'Essays', is: '>=', value: 2 })],
  ['2 or more missing in Chart labs', student({ measure: 'missing', group: 'Chart labs', is: '>=', value: 2 })],
  ['two or more late', student({ measure: 'late', is: '>=', value: 2 })],
  ['something missing', student({ measure: 'missing', is: '>=', value: 1 })],
  ['nothing missing', student({ measure: 'missing', is: '<', value: 1 })],
  ['missed 3 in a row in Quizzes', student({ measure: 'streak', of: 'missed', group: 'Quizzes', is: '>=', value: 3 })],
  ['have something due within 48 hours and not done', student({ measure: 'dueSoon', hours: 48, is: '>=', value: 1 })],
  // Grades
  ['under 60% on Quiz 1', student({ measure: 'score', item: 'q1', is: '<', value: 60 })],
  ['scored under 12 points on Quiz 1', student({ measure: 'points', item: 'q1', is: '<', value: 12 })],
  [
    'under 15 on Quiz 1',
    [{ from: 0, to: 18, code: 'ambiguous', near: ['scored under 15% on Quiz 1', 'have under 15 points on Quiz 1'] }],
  ],
  ['under 15 on Quiz 2', student({ measure: 'score', item: 'q2', is: '<', value: 15 })],
  [
    'course grade 50 to 70%',
    student({
      all: [
        { measure: 'courseGrade', is: '>=', value: 50 },
        { measure: 'courseGrade', is: '<=', value: 70 },
      ],
    }),
  ],
  ['under 60 in the course', student({ measure: 'courseGrade', is: '<', value: 60 })],
  ['below 70 in Quizzes', student({ measure: 'groupGrade', group: 'Quizzes', is: '<', value: 70 })],
  ['course grade below the passing score', student({ measure: 'courseGrade', is: '<', value: { mark: 'passing' } })],
  [
    'a grade that fell by 10 points or more in 14 days',
    student({ measure: 'gradeChange', days: 14, is: '<=', value: -10 }),
  ],
  ['no grade yet on Essay 2', student({ measure: 'score', item: 'e2', is: 'empty' })],
  // Limits and rhythm
  [
    'students away 5 days who scored under 60% on Quiz 1, weekdays at 9:30, once each time, copy me',
    {
      when: { all: [away(5), { measure: 'score', item: 'q1', is: '<', value: 60 }] },
      rhythm: { start: '2026-08-31T09:30', rrule: weekdays },
      repeat: { perSpell: 1 },
      steps: [{ to: ['student', 'instructor'] }],
    },
  ],
  [
    'Sundays and Tuesdays at 6 pm until Nov 10',
    { rhythm: { start: '2026-08-31T18:00', rrule: 'FREQ=WEEKLY;BYDAY=TU,SU', until: '2026-11-10' } },
  ],
  ['at most once a week', { repeat: { gap: { days: 7, hours: 0 } } }],
  ['twice each time, a week apart', { repeat: { perSpell: 2, gap: { days: 7, hours: 0 } } }],
  [
    'away 3 days, daily at noon, until they reply',
    { when: away(3), rhythm: { start: '2026-08-31T12:00', rrule: 'FREQ=DAILY' }, repeat: { untilReply: true } },
  ],
  [
    'every 2 weeks on Fridays, at most 3 times this term',
    { rhythm: { start: '2026-08-31T09:00', rrule: 'FREQ=WEEKLY;INTERVAL=2;BYDAY=FR' }, repeat: { perTerm: 3 } },
  ],
  ['once on Oct 24 at 8am', { rhythm: { start: '2026-10-24T08:00', rrule: 'FREQ=DAILY', until: '2026-10-24' } }],
  [
    'students in section 02 except Imani Okoro, missing 1 lab, and their advisor',
    {
      audience: { roles: ['student'], sections: ['02'], except: ['p2'] },
      when: { measure: 'missing', group: 'Chart labs', is: '>=', value: 1 },
      steps: [{ to: ['student', 'contact:advisor'] }],
    },
  ],
  ['tell only me when students are away 8 days', { when: away(8), steps: [{ to: ['instructor'] }] }],
  ['once', [{ from: 0, to: 4, code: 'ambiguous', near: ['once each time', 'once this term'] }]],
])('%s', (text, expected) => {
  const { rule, problems } = say(text, SAYING_COURSE);
  expect(rule ?? problems).toEqual(expected);
});
