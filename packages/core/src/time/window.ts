import { z } from 'zod';
import { wholeFrom, type Range } from '../problem/range.ts';
import { numberIn } from '../problem/rangeSchema.ts';
import { LONGEST_DAYS } from './duration.ts';
import { DAY, type Instant } from './instant.ts';
import { dayNumberOf, type CourseCalendar } from './calendar.ts';
import { localDateSchema } from './localDate.ts';
import { plural } from './words.ts';

/** The part of history that a count looks at (engine M4). */
export type Window =
  { readonly this: 'week' } | { readonly last: { readonly days: number } } | { readonly since: string };

/** How many days back a window may look. */
export const LAST_DAYS_RANGE: Range = wholeFrom(1, LONGEST_DAYS);

export const windowSchema = z.union([
  z.strictObject({ this: z.literal('week') }),
  z.strictObject({ last: z.strictObject({ days: numberIn(LAST_DAYS_RANGE) }) }),
  z.strictObject({ since: localDateSchema }),
]);

/** When something at x leaves the window again (Infinity: never), or null when it is never in it. */
export function leavesWindow(x: Instant, window: Window | undefined, calendar: CourseCalendar): Instant | null {
  if (!window) return Infinity;
  if ('last' in window) return calendar.addDays(x, window.last.days);
  if ('since' in window) return x >= calendar.zone.toInstant(dayNumberOf(window.since) * DAY) ? Infinity : null;
  const day = calendar.dayNumber(x);
  // Day 0, 1970-01-01, was a Thursday: Mondays are the days that are 4 modulo 7.
  const nextMonday = day + 7 - ((((day - 4) % 7) + 7) % 7);
  return calendar.zone.toInstant(nextMonday * DAY);
}

export function windowWords(window: Window | undefined, dateWords: (date: string) => string): string {
  if (!window) return '';
  if ('last' in window) return ` in the last ${plural(window.last.days, 'day')}`;
  if ('since' in window) return ` since ${dateWords(window.since)}`;
  return ' this week';
}
