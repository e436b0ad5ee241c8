/** Proposes due dates for items that have none, from their titles and their order. */
import type { Course } from '../../course/course.ts';
import type { Item } from '../../course/item.ts';
import { dayNumberOf } from '../../time/calendar.ts';
import { DAY, MINUTE, type Instant } from '../../time/instant.ts';
import { DayOrders, readDate, type DateReading } from './dates.ts';

/**
 * Where a proposal comes from: a date in the title (“Essay 1 (10/14)”), a week in the title (“Week 3”), the item's number in a series
 * (“Quiz 3”), or the order of the items.
 */
export type DueSource = 'date' | 'week' | 'number' | 'order';

export interface ProposedDue {
  readonly due: Instant;
  readonly from: DueSource;
}

/** Characters of a title that are read. */
const LONGEST = 200;
const WEEK = /\b(?:week|wk)\.? ?#?(\d{1,2})\b/i;
const NUMBERED = /^(.{0,80}?)[ #]{1,3}(\d{1,3})(?![\d/.])/;

/** Where titles have dates: in the last parentheses, after the last comma, or after “due”. */
const DATE_PARTS: readonly RegExp[] = [/\(([^()]{3,40})\)[^()]*$/, /,([^,]{3,40})$/, /\bdue (?:on |by )?(.{3,40})$/i];

/**
 * Proposals by item id for the items for which `isAsked` is true, each at 23:59 on a day of the course. A date that could be read with
 * the day or the month first is not used.
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
  for (const [item, day] of interpolatedDays(course.items, asked, found, term))
    found.set(item, { due: term.endOf(day), from: 'order' });
  return found;
}

interface TermDays {
  readonly first: number;
  readonly last: number;
  readonly weeks: number;
  readonly dayOf: (t: Instant) => number;
  readonly endOf: (day: number) => Instant;
}

function termOf({ start, end, calendar }: Course): TermDays {
  const [first, last] = [dayNumberOf(start), dayNumberOf(end)];
  return {
    first,
    last,
    weeks: Math.max(1, Math.ceil((last - first + 1) / 7)),
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

/** The dates of all titles together show whether the day or the month comes first. */
function readingOf({ calendar }: Course, items: readonly Item[]): DateReading {
  const orders = new DayOrders();
  for (const { title } of items) for (const part of partsIn(title)) orders.see(part, true);
  const frame = { start: calendar.start, end: calendar.end, asOf: calendar.end };
  return { zone: calendar.zone, order: orders.order, frame, inHeader: true };
}

function dateIn(title: string, reading: DateReading, { first, last, dayOf }: TermDays): FoundDay | null {
  for (const part of partsIn(title)) {
    const date = readDate(part, reading);
    const day = date.ok ? dayOf(date.at) : null;
    if (day !== null && day >= first && day <= last) return { day, from: 'date' };
  }
  return null;
}

/** The last day of a week of the course; week 1 starts on the first day. Null if the course has no such week. */
const endOfWeek = (week: number, { first, last, weeks }: TermDays): number | null =>
  week >= 1 && week <= weeks ? Math.min(first + 7 * week - 1, last) : null;

function weekIn(title: string, term: TermDays): FoundDay | null {
  const [, week] = WEEK.exec(title.slice(0, LONGEST)) ?? [];
  const day = week === undefined ? null : endOfWeek(Number(week), term);
  return day === null ? null : { day, from: 'week' };
}

/** The first number in a title, and the text before it. */
function parseNumbered(title: string): { readonly stem: string; readonly n: number } | null {
  const [, stem, n] = NUMBERED.exec(title.slice(0, LONGEST)) ?? [];
  return stem ? { stem: stem.toLowerCase(), n: Number(n) } : null;
}

/** The greatest number of each series that has at least two items. */
function seriesOf(items: readonly Item[]): ReadonlyMap<string, number> {
  const numbers = new Map<string, Set<number>>();
  for (const { title } of items) {
    const found = parseNumbered(title);
    if (found) numbers.set(found.stem, (numbers.get(found.stem) ?? new Set()).add(found.n));
  }
  return new Map([...numbers].flatMap(([stem, all]) => (all.size > 1 ? [[stem, Math.max(...all)] as const] : [])));
}

/** A series with more than half as many items as the term has weeks gets one a week; a shorter one is spread over the term. */
function numberIn({ title }: Item, series: ReadonlyMap<string, number>, term: TermDays): FoundDay | null {
  const found = parseNumbered(title);
  const last = found && series.get(found.stem);
  if (!found || !last || found.n < 1) return null;
  const isWeekly = last <= term.weeks && last > term.weeks / 2;
  const day = endOfWeek(isWeekly ? found.n : Math.ceil((found.n * term.weeks) / last), term);
  return day === null ? null : { day, from: 'number' };
}

/** Spaces the remaining items evenly between their neighbors that have a date, in the order of the course. */
function* interpolatedDays(
  items: readonly Item[],
  asked: readonly Item[],
  found: ReadonlyMap<string, ProposedDue>,
  { first, last, dayOf }: TermDays,
): Generator<readonly [item: string, day: number]> {
  const open = new Set(asked.filter((i) => !found.has(i.id)).map((i) => i.id));
  // A single item has no order.
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
    // A date out of order says nothing about the items before it.
    if (at <= before) continue;
    yield* placed(at, run.length + 1);
    [before, run] = [at, []];
  }
  yield* placed(last, run.length);
}
