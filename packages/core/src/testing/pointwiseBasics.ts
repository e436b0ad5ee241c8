/** The definitions that the plain evaluator's measures share, read literally off the engine page. */
import { Temporal } from 'temporal-polyfill';
import type { Leaf } from '../conditions/condition.ts';
import type { Course } from '../course/course.ts';
import type { Item } from '../course/item.ts';
import type { Person } from '../course/person.ts';
import type { ActivityEvent, Grade } from '../activity/event.ts';

export interface PlainHistory {
  readonly events: readonly ActivityEvent[];
  readonly grades: readonly Grade[];
}

/** A value, null for unknown, or the text “notApplicable” where a measure says nothing of a student. */
export type V = number | boolean | string | null;

export const zoned = (t: number, zone: string) => Temporal.Instant.fromEpochMilliseconds(t).toZonedDateTimeISO(zone);

function inBreak(date: Temporal.PlainDate, course: Course): boolean {
  const iso = date.toString();
  return course.breaks.some((b) => b.from <= iso && iso <= b.to);
}

/** T4, by walking the dates. */
export function plusCourseDays(x: number, n: number, course: Course): number {
  const from = zoned(x, course.timeZone);
  let date = from.toPlainDate();
  for (let left = n; left > 0;) {
    date = date.add({ days: 1 });
    if (!inBreak(date, course)) left--;
  }
  return date.toZonedDateTime({ timeZone: course.timeZone, plainTime: from.toPlainTime() }).epochMilliseconds;
}

export const story = (course: Course, p: Person): number =>
  Math.max(Temporal.PlainDate.from(course.start).toZonedDateTime(course.timeZone).epochMilliseconds, p.enrolledAt);

export function due(item: Item, p: Person): number | null {
  for (const e of item.extensions) if (e.person === p.id) return e.dueAt;
  for (const e of item.extensions) if (e.section !== undefined && e.section === p.section) return e.dueAt;
  return item.dueAt;
}

export function countsFor(item: Item, p: Person): boolean {
  const d = due(item, p);
  return !item.excused.includes(p.id) && !(d !== null && d <= p.enrolledAt);
}

const DOES: Record<string, string> = {
  assignment: 'submit',
  quiz: 'submit',
  forum: 'post',
  practice: 'practice',
  page: 'open',
  session: 'attend',
};

export function isDone(item: Item, p: Person, h: PlainHistory, t: number): boolean {
  if (h.events.some((e) => e.person === p.id && e.item === item.id && e.kind === DOES[item.kind] && e.at <= t))
    return true;
  return h.grades.some(
    (g) => g.person === p.id && g.item === item.id && g.criterion === null && g.at <= t && g.points > 0,
  );
}

export function gradeAt(item: Item, p: Person, h: PlainHistory, t: number): number | null {
  let best: Grade | null = null;
  for (const g of h.grades) {
    if (g.person !== p.id || g.item !== item.id || g.criterion !== null || g.at > t) continue;
    if (best === null || g.at >= best.at) best = g;
  }
  return best?.points ?? null;
}

const ABOUT_WORK = ['missing', 'late', 'onTimeShare', 'dueSoon'];

/** M2: what `group?` or `items?` mean; a session that nobody named is no work. */
export const severalOf = (leaf: Leaf, course: Course): Item[] => {
  if (leaf.items) return course.items.filter((i) => leaf.items!.includes(i.id));
  if (leaf.group !== undefined) return course.items.filter((i) => i.group === leaf.group);
  return course.items.filter((i) => i.kind !== 'session' || !ABOUT_WORK.includes(leaf.measure));
};

export const nine = (x: number) => Number(x.toFixed(9));
