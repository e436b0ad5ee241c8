/** What came of a nudge: the student's own act that ends what the rule found (engine R13). */
import { whereOf } from '../conditions/compare.ts';
import { groupOf, isLeaf, type Condition, type Leaf } from '../conditions/condition.ts';
import { SIGN_IN_EVIDENCE, kindMask } from '../activity/event.ts';
import type { Course } from '../course/course.ts';
import type { HistoryFacts } from '../measures/facts/facts.ts';
import type { MeasureName } from '../measures/values/measure.ts';
import type { CourseCalendar } from '../time/calendar.ts';
import type { Instant } from '../time/instant.ts';
import { stretchAt } from '../time/stretches.ts';

/** Which way an act of the student moves a measure: an absence or what is missing falls, what is done rises. */
const TURNED: Partial<Readonly<Record<MeasureName, 'falls' | 'rises' | 'either'>>> = {
  daysSinceSignIn: 'falls',
  daysSinceVisit: 'falls',
  daysSinceParticipation: 'falls',
  visitsChange: 'rises',
  postsChange: 'rises',
  opens: 'rises',
  share: 'rises',
  submitted: 'rises',
  dueSoon: 'falls',
  missing: 'falls',
  late: 'either',
  streak: 'either',
  posts: 'rises',
  completed: 'rises',
};

/** Whether an act can turn a leaf in the state `holds`: nobody can act to have something missing, or to be away. */
function canTurn(leaf: Leaf, holds: boolean): boolean {
  const way = TURNED[leaf.measure];
  if (way === undefined) return false;
  if (way === 'either') return true;
  const isOver = leaf.is === '>=' || leaf.is === '>';
  const isUnder = leaf.is === '<' || leaf.is === '<=';
  if (isOver || isUnder) return (way === 'falls') === (isOver === holds);
  // Nothing falls below zero.
  return !(way === 'falls' && holds && leaf.is === 'equals' && leaf.value === 0);
}

/** Two weeks, in calendar days: until then an act is a return. */
const RETURN_DAYS = 14;

const ACTS = SIGN_IN_EVIDENCE | kindMask('attend');

export interface Return {
  readonly at: Instant;
  /** The condition that the act turned. */
  readonly leaf: Leaf;
}

/** Leaves with whether they count as they stand; under `none` what the rule found is that they do not hold. */
function turnableLeaves(condition: Condition, holds = true): { leaf: Leaf; holds: boolean }[] {
  if (isLeaf(condition)) return canTurn(condition, holds) ? [{ leaf: condition, holds }] : [];
  const { kind, children } = groupOf(condition);
  return children.flatMap((child) => turnableLeaves(child, kind === 'none' ? !holds : holds));
}

/** Whether a rule can have returns at all; others have replies only. */
export const canReturn = (condition: Condition): boolean => turnableLeaves(condition).length > 0;

/** The first act after `from` that ends one of the conditions as the rule found them then (engine O1); or null. */
export function actAfter(facts: HistoryFacts, person: number, condition: Condition, from: Instant): Return | null {
  const log = facts.history.logOf(facts.course.people[person]!.id);
  let first: Return | null = null;
  for (const { leaf, holds } of turnableLeaves(condition)) {
    const where = whereOf(leaf, facts.course.marks);
    const end = stretchAt(where(facts.timeline(person, leaf), holds), from)?.end;
    // A condition may also end by the clock alone, as when a due instant passes: that is no return.
    if (end === undefined || end <= from || log.latest(ACTS, end) !== end) continue;
    if (first === null || end < first.at) first = { at: end, leaf };
  }
  return first;
}

/** Until when an act is a return to a nudge that was sent at `sentAt`; not included. */
export const returnsEnd = (sentAt: Instant, calendar: CourseCalendar): Instant => calendar.addDays(sentAt, RETURN_DAYS);

/** Whether an act falls within two weeks of a nudge that was sent at `sentAt`. */
export const isReturn = (act: Pick<Return, 'at'>, sentAt: Instant, calendar: CourseCalendar): boolean =>
  act.at < returnsEnd(sentAt, calendar);

/** What a student did to come back, after their name: "visited the course", "turned in Chart lab 3". */
export function actWords({ leaf }: Return, course: Course): string {
  const item = leaf.item === undefined ? undefined : course.items[course.itemIndex.get(leaf.item) ?? -1]?.title;
  switch (leaf.measure) {
    case 'daysSinceSignIn':
      return 'signed in';
    case 'daysSinceVisit':
    case 'visitsChange':
      return 'visited the course';
    case 'opens':
      return `opened ${item ?? 'a page'}`;
    case 'posts':
    case 'postsChange':
      return 'posted in a discussion';
    case 'completed':
      return `completed ${item ?? 'the course'}`;
    case 'submitted':
      return `turned in ${item ?? 'work'}`;
    case 'missing':
    case 'late':
    case 'dueSoon':
    case 'streak':
      return 'turned in work';
    default:
      return 'took part';
  }
}
