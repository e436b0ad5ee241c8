/**
 * When a condition can hold at all, whatever anyone does: nobody can be away for five days on the second day, be missing
 * work that is not due, or have hours left after the due instant. Bounds, not answers: between them it may or may not hold.
 */
import { dueFor, type Course } from '../course/course.ts';
import { severalItems } from '../measures/values/measure.ts';
import { dueSoonFrom } from '../measures/catalogue/dueSoon.ts';
import { HOUR, type Instant } from '../time/instant.ts';
import { thresholdOf } from './compare.ts';
import { groupOf, isLeaf, type Condition, type Leaf } from './condition.ts';

export interface Bounds {
  /** Before it nobody can meet the condition. */
  readonly earliest: Instant;
  /** From it on nobody can any more; Infinity where nothing says so. */
  readonly latest: Instant;
}

export function boundsOf(condition: Condition, course: Course): Bounds {
  if (isLeaf(condition)) return { earliest: earliest(condition, course), latest: latest(condition, course) };
  const { kind, children } = groupOf(condition);
  if (kind === 'none') return { earliest: course.calendar.start, latest: Infinity };
  const parts = children.map((c) => boundsOf(c, course));
  const [first, last] = kind === 'all' ? [Math.max, Math.min] : [Math.min, Math.max];
  return { earliest: first(...parts.map((p) => p.earliest)), latest: last(...parts.map((p) => p.latest)) };
}

/** Whether the comparison asks for at least some amount; how much, in whole units. */
function atLeast(leaf: Leaf, course: Course): number | null {
  const threshold = thresholdOf(leaf, course.marks);
  if (typeof threshold !== 'number') return null;
  if (leaf.is === '>=' || leaf.is === 'equals') return Math.ceil(threshold);
  return leaf.is === '>' ? Math.floor(threshold) + 1 : null;
}

function earliest(leaf: Leaf, course: Course): Instant {
  const { calendar } = course;
  const n = atLeast(leaf, course);
  const grown = n !== null && n > 0 ? n : null;
  switch (leaf.measure) {
    case 'daysSinceSignIn':
    case 'daysSinceVisit':
    case 'daysSinceParticipation':
    case 'longestGap':
      return grown === null ? calendar.start : calendar.addCourseDays(calendar.start, grown);
    case 'daysEnrolled':
      return grown === null ? calendar.start : calendar.addDays(calendar.start, grown);
    case 'missing':
    case 'late':
      return grown === null ? calendar.start : nth(dues(leaf, course), grown, calendar.start);
    case 'onTimeShare':
      return leaf.is === 'empty' ? calendar.start : nth(dues(leaf, course), 1, calendar.start);
    case 'streak':
      return grown === null ? calendar.start : nth(dues(leaf, course), grown, calendar.start);
    case 'dueSoon':
      return grown === null ? calendar.start : dueSoonFrom(nth(dues(leaf, course), 1, calendar.start), leaf, calendar);
    case 'score':
    case 'points':
    case 'criterion':
      return leaf.is === 'empty' ? calendar.start : (itemOpens(leaf, course) ?? calendar.start);
    case 'daysAwaitingGrade':
      return calendar.addDays(itemOpens(leaf, course) ?? calendar.start, grown ?? 0);
    case 'hoursUntilDue': {
      const hours = thresholdOf(leaf, course.marks);
      const due = firstDue(leaf, course);
      if (due === null || typeof hours !== 'number' || (leaf.is !== '<=' && leaf.is !== '<')) return calendar.start;
      return Math.max(calendar.start, due - hours * HOUR);
    }
    default:
      return calendar.start;
  }
}

function latest(leaf: Leaf, course: Course): Instant {
  const hours = thresholdOf(leaf, course.marks);
  if (leaf.measure === 'hoursUntilDue') {
    if (typeof hours !== 'number' || (leaf.is !== '>' && leaf.is !== '>=')) return Infinity;
    const last = lastDue(leaf, course);
    return last === null ? Infinity : last - hours * HOUR + (leaf.is === '>=' ? 1 : 0);
  }
  if (leaf.measure === 'dueSoon' && (atLeast(leaf, course) ?? 0) > 0) return dues(leaf, course).at(-1) ?? Infinity;
  return Infinity;
}

/** Every due instant of the items a leaf is about, extensions included, in order. */
function dues(leaf: Leaf, course: Course): Instant[] {
  return severalItems(course, leaf)
    .flatMap((i) => {
      const item = course.items[i]!;
      return [item.dueAt, ...item.extensions.map((e) => e.dueAt)].filter((t) => t !== null);
    })
    .sort((a, b) => a - b);
}

const nth = (sorted: readonly Instant[], n: number, otherwise: Instant): Instant => sorted[n - 1] ?? otherwise;

const itemNamed = (leaf: Leaf, course: Course) => course.items[course.itemIndex.get(leaf.item ?? '') ?? -1];
const itemOpens = (leaf: Leaf, course: Course): Instant | null => itemNamed(leaf, course)?.opensAt ?? null;

function firstDue(leaf: Leaf, course: Course): Instant | null {
  const all = allDues(leaf, course);
  return all.length === 0 ? null : Math.min(...all);
}

function lastDue(leaf: Leaf, course: Course): Instant | null {
  const all = allDues(leaf, course);
  return all.length === 0 ? null : Math.max(...all);
}

function allDues(leaf: Leaf, course: Course): Instant[] {
  const item = itemNamed(leaf, course);
  return item ? course.people.map((p) => dueFor(item, p)).filter((t) => t !== null) : [];
}
