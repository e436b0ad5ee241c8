/** Sound beginnings: a new rule, and a first condition on each measure. */
import { assertNever } from '@zest-bell/core/problem';
import { dateOf, type Instant } from '@zest-bell/core/time';
import type { Course, ItemKind } from '@zest-bell/core/course';
import type { MeasureName } from '@zest-bell/core/measures';
import type { Leaf } from '@zest-bell/core/conditions';
import type { Rule } from '@zest-bell/core/rules';

/** The item an instructor most likely means: the latest of the kinds that is already open, or the first. */
function likelyItem(course: Course, now: Instant, kinds: readonly ItemKind[]): string {
  const fitting = course.items.filter((i) => kinds.includes(i.kind));
  const open = fitting.filter((i) => (i.opensAt ?? course.calendar.start) <= now);
  return (open.at(-1) ?? fitting[0] ?? course.items[0])?.id ?? '';
}

/** The first group that holds items of a kind, as a parameter; none when the course has no such group. */
function groupWith(course: Course, kind: ItemKind): { group?: string } {
  const group = course.items.find((i) => i.kind === kind && i.group !== null)?.group;
  return group == null ? {} : { group };
}

/** The names of the imported columns. */
export const columnsOf = (course: Course): string[] => [
  ...new Set(course.people.flatMap((p) => Object.keys(p.fields))),
];

export function defaultLeaf(measure: MeasureName, course: Course, now: Instant): Leaf {
  switch (measure) {
    case 'daysSinceVisit':
    case 'daysSinceSignIn':
      return { measure, is: '>=', value: 5 };
    case 'opens':
      return { measure, item: likelyItem(course, now, ['page']), is: 'equals', value: 0 };
    case 'submitted':
      return { measure, item: likelyItem(course, now, ['assignment', 'quiz']), is: 'equals', value: false };
    case 'hoursUntilDue':
      return { measure, item: likelyItem(course, now, ['assignment', 'quiz']), is: '<=', value: 48 };
    case 'missing':
      return { measure, is: '>=', value: 1 };
    case 'score':
      return { measure, item: likelyItem(course, now, ['quiz', 'assignment']), is: '<=', value: 50 };
    case 'courseGrade':
      return { measure, is: '<', value: 70 };
    case 'daysSinceParticipation':
      return { measure, is: '>=', value: 7 };
    case 'longestGap':
      return { measure, is: '>=', value: 7 };
    case 'visits':
      return { measure, window: { last: { days: 7 } }, is: '<=', value: 1 };
    case 'visitsVsClass':
      return { measure, window: { last: { days: 14 } }, is: '<=', value: -50 };
    case 'visitsChange':
      return { measure, days: 14, is: '<=', value: -3 };
    case 'postsChange':
      return { measure, days: 14, is: '<=', value: -1 };
    case 'share':
      return { measure, of: 'practice', ...groupWith(course, 'practice'), is: '<', value: 25 };
    case 'dueSoon':
      return { measure, days: 1, is: '>=', value: 1 };
    case 'late':
      return { measure, is: '>=', value: 2 };
    case 'onTimeShare':
      return { measure, is: '<', value: 70 };
    case 'daysAwaitingGrade':
      return { measure, item: likelyItem(course, now, ['assignment', 'quiz']), is: '>=', value: 7 };
    case 'points':
      return { measure, item: likelyItem(course, now, ['quiz', 'assignment']), is: '<=', value: 10 };
    case 'criterion':
      return { measure, item: likelyItem(course, now, ['assignment']), criterion: 'Method', is: '<=', value: 2 };
    case 'latestScore':
      return { measure, is: '>=', value: 95 };
    case 'daysSinceGrade':
      return { measure, is: '>=', value: 14 };
    case 'lowScores':
      return { measure, than: 60, is: '>=', value: 2 };
    case 'highScores':
      return { measure, than: 90, is: '>=', value: 2 };
    case 'groupGrade':
      return { measure, group: groupWith(course, 'quiz').group ?? '', is: '<', value: 60 };
    case 'gradeVsClass':
      return { measure, is: '<=', value: -10 };
    case 'gradeChange':
      return { measure, days: 14, is: '<=', value: -5 };
    case 'posts':
      return { measure, window: { this: 'week' }, is: 'equals', value: 0 };
    case 'streak':
      return { measure, of: 'done', group: groupWith(course, 'forum').group ?? '', is: '>=', value: 5 };
    case 'absences':
      return { measure, is: '>=', value: 2 };
    case 'daysEnrolled':
      return { measure, is: '>=', value: 14 };
    case 'completed':
      return { measure, is: 'equals', value: false };
    case 'field':
      return { measure, name: columnsOf(course)[0] ?? 'Column', is: 'filled' };
    default:
      return assertNever(measure);
  }
}

/** A draft that looks every weekday morning for students who stayed away. */
export function newRule(course: Course, now: Instant, wording: string): Rule {
  const today = dateOf(course.calendar.dayNumber(now));
  return {
    id: 'new',
    name: 'A new rule',
    note: '',
    label: '',
    status: 'draft',
    audience: { roles: ['student'], sections: [], except: [] },
    when: defaultLeaf('daysSinceVisit', course, now),
    rhythm: {
      start: `${today > course.start ? today : course.start}T09:30`,
      rrule: 'FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR',
      until: course.end,
      skipBreaks: true,
    },
    repeat: { perSpell: 1, perTerm: null, gap: null },
    essential: false,
    weight: 'normal',
    spellsFrom: null,
    steps: [{ after: { days: 0, hours: 0 }, deliver: 'send', to: ['student'], wording }],
  };
}
