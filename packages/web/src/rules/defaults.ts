/** Sound beginnings: a new rule, and a first condition on each measure. */
import {
  dateOf,
  type Course,
  type Instant,
  type ItemKind,
  type Leaf,
  type MeasureName,
  type Rule,
  assertNever,
} from '@zest-bell/core';

/** The item an instructor most likely means: the latest of the kinds that is already open, or the first. */
function likelyItem(course: Course, now: Instant, kinds: readonly ItemKind[]): string {
  const fitting = course.items.filter((i) => kinds.includes(i.kind));
  const open = fitting.filter((i) => (i.opensAt ?? course.calendar.start) <= now);
  return (open.at(-1) ?? fitting[0] ?? course.items[0])?.id ?? '';
}

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
    spellsFrom: null,
    steps: [{ after: { days: 0, hours: 0 }, deliver: 'send', to: ['student'], wording }],
  };
}
