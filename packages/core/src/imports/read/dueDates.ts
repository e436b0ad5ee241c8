/** When items without a due date may be due, from their titles and their order; proposed, never decided. */
import type { Course } from '../../course/course.ts';
import type { Item } from '../../course/item.ts';
import { dayNumberOf } from '../../time/calendar.ts';
import { DAY, MINUTE, type Instant } from '../../time/instant.ts';
import { DayOrders, readDate, type DateReading } from './dates.ts';

/**
 * What a proposal comes from: a date in the title (“Essay 1 (10/14)”), a week that it names (“Week 3”), its number in a series (“Quiz 3”),
 * or its place among the others.
 */
export type DueSource = 'date' | 'week' | 'number' | 'order';

export interface ProposedDue {
  readonly due: Instant;
  readonly from: DueSource;
}

/** Longer titles are read up to here. */
const LONGEST = 200;
const WEEK = /\b(?:week|wk)\.? ?#?(\d{1,2})\b/i;
const NUMBERED = /^(.{0,80}?)[ #]{1,3}(\d{1,3})(?![\d/.])/;

/** What stands in the last brackets of a title, or behind its last comma or “due”. */
const DATE_PARTS: readonly RegExp[] = [/\(([^()]{3,40})\)[^()]*$/, /,([^,]{3,40})$/, /\bdue (?:on |by )?(.{3,40})$/i];

/**
 * Proposals for the items that `isAsked`, by their ids, each at 23:59. A date in a title that could be read in two orders proposes nothing, and
 * none lies outside the course.
 */
export function proposedDueDates(course: Course, isAsked: (item: Item) => boolean): ReadonlyMap<string, ProposedDue> {
  const asked = course.items.filter(isAsked);
  const term = termOf(course);
  const found = new Map<string, ProposedDue>();
  const reading = readingOf(course, asked);
  const series = seriesOf(course.items);
  for (const item of asked) {
    const day = dateIn(item.title, reading, term) ?? weekIn(item.title, term) ?? numberIn(item, series, term);
    if (day) found.set(item.id, { due: term.endOf(day.day), from: day.from });
  }
  for (const [item, day] of placesBetween(course.items, asked, found, term))
    found.set(item, { due: term.endOf(day), from: 'order' });
  return found;
}

interface Term {
  readonly first: number;
  readonly last: number;
  readonly weeks: number;
  readonly dayOf: (t: Instant) => number;
  readonly endOf: (day: number) => Instant;
}

function termOf({ start, end, calendar }: Course): Term {
  const [first, last] = [dayNumberOf(start), dayNumberOf(end)];
  return {
    ...{ first, last, weeks: Math.max(1, Math.ceil((last - first + 1) / 7)) },
    dayOf: (t) => calendar.dayNumber(t),
    endOf: (day) => calendar.zone.toInstant(day * DAY + (24 * 60 - 1) * MINUTE),
  };
}

interface FoundDay {
  readonly day: number;
  readonly from: DueSource;
}

const partsIn = (title: string): string[] =>
  DATE_PARTS.flatMap((part) => part.exec(title.slice(0, LONGEST))?.[1]?.trim() ?? []);

/** Dates of all titles prove together which number is the day. */
function readingOf({ calendar }: Course, items: readonly Item[]): DateReading {
  const orders = new DayOrders();
  for (const { title } of items) for (const part of partsIn(title)) orders.see(part, true);
  const frame = { start: calendar.start, end: calendar.end, asOf: calendar.end };
  return { zone: calendar.zone, order: orders.order, frame, inHeader: true };
}

function dateIn(title: string, reading: DateReading, { first, last, dayOf }: Term): FoundDay | null {
  for (const part of partsIn(title)) {
    const date = readDate(part, reading);
    const day = date.ok ? dayOf(date.at) : null;
    if (day !== null && day >= first && day <= last) return { day, from: 'date' };
  }
  return null;
}

/** The last day of a week of the course, the first beginning on its first day; null for a week that it does not have. */
const endOfWeek = (week: number, { first, last, weeks }: Term): number | null =>
  week >= 1 && week <= weeks ? Math.min(first + 7 * week - 1, last) : null;

function weekIn(title: string, term: Term): FoundDay | null {
  const [, week] = WEEK.exec(title.slice(0, LONGEST)) ?? [];
  const day = week === undefined ? null : endOfWeek(Number(week), term);
  return day === null ? null : { day, from: 'week' };
}

/** The number of a title, and what stands before it. */
function numbered(title: string): { readonly stem: string; readonly n: number } | null {
  const [, stem, n] = NUMBERED.exec(title.slice(0, LONGEST)) ?? [];
  return stem ? { stem: stem.toLowerCase(), n: Number(n) } : null;
}

/** The greatest number of each series that has several. */
function seriesOf(items: readonly Item[]): ReadonlyMap<string, number> {
  const numbers = new Map<string, Set<number>>();
  for (const { title } of items) {
    const found = numbered(title);
    if (found) numbers.set(found.stem, (numbers.get(found.stem) ?? new Set()).add(found.n));
  }
  return new Map([...numbers].flatMap(([stem, all]) => (all.size > 1 ? [[stem, Math.max(...all)] as const] : [])));
}

/** One a week where a series fills more than half of the weeks, else spread over the term. */
function numberIn({ title }: Item, series: ReadonlyMap<string, number>, term: Term): FoundDay | null {
  const found = numbered(title);
  const last = found && series.get(found.stem);
  if (!found || !last || found.n < 1) return null;
  const isWeekly = last <= term.weeks && last > term.weeks / 2;
  const day = endOfWeek(isWeekly ? found.n : Math.ceil((found.n * term.weeks) / last), term);
  return day === null ? null : { day, from: 'number' };
}

/** What is left lies between its neighbors in the course's order that have a date, at even distances. */
function* placesBetween(
  items: readonly Item[],
  asked: readonly Item[],
  found: ReadonlyMap<string, ProposedDue>,
  { first, last, dayOf }: Term,
): Generator<readonly [item: string, day: number]> {
  const open = new Set(asked.filter((i) => !found.has(i.id)).map((i) => i.id));
  // One by itself has no order.
  if (open.size < 2 && open.size === asked.length && items.every((i) => i.dueAt === null)) return;
  const inOrder = items.filter((i) => open.has(i.id) || found.has(i.id) || (i.dueAt !== null && i.kind !== 'session'));
  let before = first - 1;
  let run: string[] = [];
  const placed = (until: number, parts: number): (readonly [string, number])[] =>
    run.map((id, i) => [id, Math.min(last, before + Math.round(((until - before) * (i + 1)) / parts))]);
  for (const item of inOrder) {
    if (open.has(item.id)) {
      run.push(item.id);
      continue;
    }
    const at = dayOf(found.get(item.id)?.due ?? item.dueAt!);
    // What is out of order says nothing of those before it.
    if (at <= before) continue;
    yield* placed(at, run.length + 1);
    [before, run] = [at, []];
  }
  yield* placed(last, run.length);
}
