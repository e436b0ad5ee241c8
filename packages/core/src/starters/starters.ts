/**
 * The starters: what instructors set up most. Their numbers (5 and 10 days, 50 and 95 %, 10 points, two missing items, five
 * in a row, two weeks, under 25 % of practice, Sunday and Tuesday evenings, the day before, 9:30) are common practice, no
 * source, and are there to be changed.
 */
import type { ItemKind } from '../course/item.ts';
import { MINUTE, type Instant } from '../time/instant.ts';
import type { Course } from '../course/course.ts';
import {
  dateAt,
  dayBefore,
  firstDay,
  groupWith,
  lastDayOf,
  lastDue,
  latestGraded,
  needs,
  nextDue,
  ON_WEEKDAYS,
  rhythm,
  ruleWith,
  syllabusOf,
  timeOfDay,
  toStudent,
  weekdayOf,
} from './parts.ts';
import type { Starter } from './starter.ts';
import * as words from './words.ts';

const HANDED_IN: readonly ItemKind[] = ['assignment', 'quiz'];

/** A day on which something is still far enough away to be done, or today when it is near. */
const daysBefore = (course: Course, due: Instant, days: number, now: Instant): string => {
  const day = dateAt(course, course.calendar.addDays(due, -days));
  const first = firstDay(course, now);
  return day > first ? day : first;
};

export const STARTERS: readonly Starter[] = [
  {
    id: 'away',
    family: 'Away',
    title: 'Away for five days, firmer at ten',
    why: 'A friendly message before a gap becomes a habit, and a firmer one if it does.',
    wordings: [words.AWAY_FIRST, words.AWAY_FIRM],
    build: (course, now) =>
      ruleWith({
        name: 'Away for five days, firmer at ten',
        label: 'Support',
        note: 'A friendly message first, a firmer one five days later.',
        when: { measure: 'daysSinceVisit', is: '>=', value: 5 },
        rhythm: rhythm(`${firstDay(course, now)}T09:30`, ON_WEEKDAYS, course.end),
        repeat: { perSpell: 1 },
        weight: 'strong',
        steps: [toStudent('away-first'), toStudent('away-firm', { after: { days: 5, hours: 0 } })],
      }),
  },
  {
    id: 'low-and-away',
    family: 'Away',
    title: '50% or less, and away',
    why: 'A weak result and an absence together say more than either alone.',
    wordings: [words.LOW_AND_AWAY],
    build(course, now) {
      const graded = latestGraded(course, now, ['quiz']) ?? latestGraded(course, now, HANDED_IN);
      if (!graded) return needs('quiz or assignment');
      return ruleWith({
        name: `Low on ${graded.title}, and away`,
        label: 'Support',
        note: 'A weak result and an absence together.',
        when: {
          all: [
            { measure: 'score', item: graded.id, is: '<=', value: 50 },
            { measure: 'daysSinceVisit', is: '>=', value: 3 },
          ],
        },
        rhythm: rhythm(`${firstDay(course, now)}T10:00`, ON_WEEKDAYS, course.end),
        repeat: { perSpell: 1, perTerm: 2 },
        weight: 'strong',
        steps: [toStudent('low-and-away')],
      });
    },
  },
  {
    id: 'less-active',
    family: 'Away',
    title: 'Less active than two weeks ago',
    why: 'Somebody who comes less often than before is easier to reach than somebody who is gone.',
    wordings: [words.LESS_ACTIVE],
    build: (course, now) =>
      ruleWith({
        name: 'Less active than two weeks ago',
        label: 'Support',
        note: 'Three visits fewer than in the two weeks before.',
        when: { measure: 'visitsChange', days: 14, is: '<=', value: -3 },
        rhythm: rhythm(`${firstDay(course, now)}T09:30`, 'FREQ=WEEKLY;BYDAY=MO', course.end),
        repeat: { perSpell: 1, gap: { days: 14, hours: 0 } },
        steps: [toStudent('less-active')],
      }),
  },
  {
    id: 'not-completed',
    family: 'Away',
    title: 'Not completed two weeks after enrollment',
    why: 'For courses that students finish at their own pace.',
    wordings: [words.NOT_COMPLETED],
    build: (course, now) =>
      ruleWith({
        name: 'Not completed after two weeks',
        label: 'Support',
        note: 'For a course that students finish at their own pace.',
        when: {
          all: [
            { measure: 'completed', is: 'equals', value: false },
            { measure: 'daysEnrolled', is: '>=', value: 14 },
          ],
        },
        rhythm: rhythm(`${firstDay(course, now)}T09:00`, ON_WEEKDAYS, course.end),
        repeat: { perTerm: 2, gap: { days: 14, hours: 0 } },
        weight: 'strong',
        steps: [toStudent('not-completed')],
      }),
  },
  {
    id: 'syllabus',
    family: 'Content',
    title: 'Syllabus not opened before its quiz',
    why: 'Five minutes of reading before the quiz counts.',
    wordings: [words.SYLLABUS],
    build(course, now) {
      const page = syllabusOf(course);
      const quiz = nextDue(course, now, ['quiz']);
      if (!page) return needs('page to open');
      if (!quiz) return needs('quiz that is still to come, with a due date');
      return ruleWith({
        name: `${page.title} not opened before ${quiz.title}`,
        label: 'Content',
        note: 'In the three days before it is due.',
        when: {
          all: [
            { measure: 'opens', item: page.id, is: 'equals', value: 0 },
            { measure: 'hoursUntilDue', item: quiz.id, is: '<=', value: 72 },
            { measure: 'hoursUntilDue', item: quiz.id, is: '>', value: 0 },
          ],
        },
        rhythm: rhythm(`${daysBefore(course, quiz.dueAt, 2, now)}T16:00`, 'FREQ=DAILY', lastDayOf(course, quiz.dueAt)),
        repeat: { perSpell: 1 },
        weight: 'light',
        steps: [toStudent('syllabus-first')],
      });
    },
  },
  {
    id: 'practice',
    family: 'Content',
    title: 'Little practice before the quiz',
    why: 'Less than a quarter of the practice is done, and the quiz is near.',
    wordings: [words.PRACTICE],
    build(course, now) {
      const practice = groupWith(course, ['practice']);
      const quiz = nextDue(course, now, ['quiz']);
      if (!practice) return needs('practice items');
      if (!quiz) return needs('quiz that is still to come, with a due date');
      return ruleWith({
        name: `Little practice before ${quiz.title}`,
        label: 'Content',
        note: 'Less than a quarter of the practice done, in the four days before the quiz is due.',
        when: {
          all: [
            // The quiz first: it is what the message speaks of.
            { measure: 'hoursUntilDue', item: quiz.id, is: '<=', value: 96 },
            { measure: 'hoursUntilDue', item: quiz.id, is: '>', value: 0 },
            { measure: 'share', of: 'practice', ...practice, is: '<', value: 25 },
          ],
        },
        rhythm: rhythm(`${daysBefore(course, quiz.dueAt, 3, now)}T17:00`, 'FREQ=DAILY', lastDayOf(course, quiz.dueAt)),
        repeat: { perSpell: 1 },
        weight: 'light',
        steps: [toStudent('practice-first')],
      });
    },
  },
  {
    id: 'not-submitted',
    family: 'Work',
    title: 'Nothing submitted, twice a week until it is due',
    why: 'Sunday and Tuesday evenings. It stops by itself after the due date.',
    wordings: [words.NOT_SUBMITTED],
    build(course, now) {
      const item = nextDue(course, now, ['assignment']) ?? nextDue(course, now, HANDED_IN);
      if (!item) return needs('assignment or quiz that is still to come, with a due date');
      const opens = item.opensAt === null ? firstDay(course, now) : dateAt(course, item.opensAt);
      const first = firstDay(course, now);
      return ruleWith({
        name: `Nothing submitted to ${item.title}`,
        label: 'Work',
        note: 'Sunday and Tuesday evenings until it is due.',
        when: { measure: 'submitted', item: item.id, is: 'equals', value: false },
        rhythm: rhythm(
          `${opens > first ? opens : first}T18:00`,
          'FREQ=WEEKLY;BYDAY=TU,SU',
          lastDayOf(course, item.dueAt),
        ),
        repeat: { perTerm: 4 },
        weight: 'light',
        steps: [toStudent('not-submitted')],
      });
    },
  },
  {
    id: 'forum-closes',
    family: 'Work',
    title: 'The day before a weekly discussion closes',
    why: 'Only to students who have not posted yet.',
    wordings: [words.FORUM],
    build(course, now) {
      const forums = groupWith(course, ['forum']);
      const next = nextDue(course, now, ['forum']);
      if (!forums || !next) return needs('discussion that is still to come, with a due date');
      const eve = dayBefore(weekdayOf(course, next.dueAt));
      const day = dateAt(course, course.calendar.addDays(next.dueAt, -1));
      const first = firstDay(course, now);
      return ruleWith({
        name: 'The discussion closes tomorrow',
        label: 'Reminder',
        note: 'The morning before, to students who have not posted.',
        when: { measure: 'dueSoon', days: 1, ...forums, is: '>=', value: 1 },
        rhythm: rhythm(
          `${day > first ? day : first}T10:00`,
          `FREQ=WEEKLY;BYDAY=${eve}`,
          lastDayOf(course, lastDue(course, ['forum'])!.dueAt),
        ),
        repeat: { gap: { days: 6, hours: 0 } },
        weight: 'light',
        steps: [toStudent('forum-closes')],
      });
    },
  },
  {
    id: 'two-missing',
    family: 'Work',
    title: 'Two items are missing',
    why: 'One missing item can happen. Two are worth a message.',
    wordings: [words.TWO_MISSING],
    build(course, now) {
      const work = groupWith(course, ['assignment']) ?? groupWith(course, HANDED_IN);
      if (!work) return needs('assignments or quizzes');
      return ruleWith({
        name: 'Two items are missing',
        label: 'Work',
        note: 'One missing item can happen. Two are worth a message.',
        when: { measure: 'missing', ...work, is: '>=', value: 2 },
        rhythm: rhythm(`${firstDay(course, now)}T18:00`, 'FREQ=WEEKLY;BYDAY=MO,TH', course.end),
        repeat: { perSpell: 1, perTerm: 3 },
        steps: [toStudent('two-missing')],
      });
    },
  },
  {
    id: 'under-mean',
    family: 'Grades',
    title: '10 points below the class mean',
    why: 'Early enough in the term to change it.',
    wordings: [words.UNDER_MEAN],
    build: (course, now) =>
      ruleWith({
        name: '10 points below the class mean',
        label: 'Grades',
        note: 'Early enough in the term to change it.',
        when: { measure: 'gradeVsClass', is: '<=', value: -10 },
        rhythm: rhythm(`${firstDay(course, now)}T15:00`, 'FREQ=WEEKLY;BYDAY=WE', course.end),
        repeat: { perSpell: 1, gap: { days: 28, hours: 0 } },
        weight: 'strong',
        steps: [toStudent('under-mean')],
      }),
  },
  {
    id: 'worked-and-low',
    family: 'Grades',
    title: 'Worked, and still scored low',
    why: 'No automatic message fits, so it waits for you, with the reason beside it.',
    wordings: [words.WORKED_AND_LOW],
    build(course, now) {
      const practice = groupWith(course, ['practice']);
      const quiz = latestGraded(course, now, ['quiz']);
      if (!practice) return needs('practice items');
      if (!quiz) return needs('quiz');
      return ruleWith({
        name: `Practiced, and still low on ${quiz.title}`,
        label: 'Grades',
        note: 'It waits for you: a student who works hard and scores low needs your own words.',
        when: {
          all: [
            { measure: 'score', item: quiz.id, is: '<', value: 60 },
            { measure: 'share', of: 'practice', ...practice, is: '>=', value: 50 },
          ],
        },
        rhythm: rhythm(`${firstDay(course, now)}T14:00`, ON_WEEKDAYS, course.end),
        repeat: { perTerm: 1 },
        weight: 'strong',
        steps: [toStudent('worked-and-low', { deliver: 'hold' })],
      });
    },
  },
  {
    id: 'excellent',
    family: 'Praise',
    title: 'Over 95%',
    why: 'Within hours of the grade, while it is fresh.',
    wordings: [words.EXCELLENT],
    build: (course, now) =>
      ruleWith({
        name: 'Over 95%',
        label: 'Praise',
        note: 'Within hours of the grade.',
        when: {
          all: [
            { measure: 'latestScore', is: '>', value: 95 },
            { measure: 'daysSinceGrade', is: '<=', value: 1 },
          ],
        },
        rhythm: rhythm(`${firstDay(course, now)}T08:00`, 'FREQ=HOURLY;INTERVAL=3', course.end),
        repeat: { perSpell: 1, gap: { days: 7, hours: 0 } },
        weight: 'light',
        steps: [toStudent('excellent')],
      }),
  },
  {
    id: 'welcome-back',
    family: 'Praise',
    title: 'Came back after an absence',
    why: 'Coming back is the hardest step, and students like to hear that you noticed.',
    wordings: [words.WELCOME_BACK],
    build: (course, now) =>
      ruleWith({
        name: 'Came back after an absence',
        label: 'Praise',
        note: 'Away for a week or more, and here again.',
        when: { measure: 'longestGap', window: { last: { days: 3 } }, is: '>=', value: 7 },
        rhythm: rhythm(`${firstDay(course, now)}T11:00`, 'FREQ=DAILY', course.end),
        repeat: { perSpell: 1 },
        weight: 'light',
        steps: [toStudent('welcome-back')],
      }),
  },
  {
    id: 'five-discussions',
    family: 'Praise',
    title: 'Five discussions in a row',
    why: 'Students who take part every time should hear that you noticed.',
    wordings: [words.FIVE_DISCUSSIONS],
    build(course, now) {
      const forums = groupWith(course, ['forum']);
      if (!forums || !('group' in forums)) return needs('discussions in a group of items');
      return ruleWith({
        name: 'Five discussions in a row',
        label: 'Praise',
        note: 'For students who take part every time.',
        when: { measure: 'streak', of: 'done', ...forums, is: '>=', value: 5 },
        rhythm: rhythm(`${firstDay(course, now)}T10:00`, 'FREQ=WEEKLY;BYDAY=MO', course.end),
        repeat: { perSpell: 1 },
        weight: 'light',
        steps: [toStudent('five-discussions')],
      });
    },
  },
  {
    id: 'before-class',
    family: 'For yourself',
    title: 'An alert to yourself before class',
    why: 'One list for you, half an hour before class: students you may want to talk to. Students get nothing.',
    wordings: [words.BEFORE_CLASS],
    build(course, now) {
      const next = nextDue(course, now, ['session']);
      const begins = next && (next.opensAt ?? next.dueAt);
      const work = groupWith(course, ['assignment']) ?? groupWith(course, HANDED_IN);
      const time = begins === undefined ? '09:30' : timeOfDay(course, begins - 30 * MINUTE);
      const days = begins === undefined ? 'MO,TU,WE,TH,FR' : weekdayOf(course, begins);
      return ruleWith({
        name: 'Before class, for myself',
        label: 'For myself',
        note: 'One list, half an hour before class. Students get nothing.',
        when: {
          any: [
            { measure: 'daysSinceVisit', is: '>=', value: 7 },
            { measure: 'missing', ...work, is: '>=', value: 2 },
          ],
        },
        rhythm: rhythm(`${firstDay(course, now)}T${time}`, `FREQ=WEEKLY;BYDAY=${days}`, course.end),
        repeat: { gap: { days: 6, hours: 0 } },
        steps: [toStudent('before-class', { to: ['instructor'], together: true })],
      });
    },
  },
];
