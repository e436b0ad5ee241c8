import { z } from 'zod';
import { numberFrom, wholeFrom, type Range } from '../problem/range.ts';
import { numberIn } from '../problem/rangeSchema.ts';

/** Calendar days in the course's zone, then exact hours (engine T2). */
export interface Duration {
  readonly days: number;
  readonly hours: number;
}

/** Ten years: longer than any course runs, and short enough to be counted. */
export const LONGEST_DAYS = 3660;
export const LONGEST_HOURS = LONGEST_DAYS * 24;

export const DAYS_RANGE: Range = wholeFrom(0, LONGEST_DAYS);
export const HOURS_RANGE: Range = numberFrom(0, LONGEST_HOURS);

/** Accepts `weeks` as 7 days and `minutes` as sixtieths of an hour; days must be whole (engine T2). */
export const durationSchema = z
  .strictObject({
    weeks: numberIn(wholeFrom(0, Math.floor(LONGEST_DAYS / 7))).optional(),
    days: numberIn(DAYS_RANGE).optional(),
    hours: numberIn(HOURS_RANGE).optional(),
    minutes: numberIn(numberFrom(0, LONGEST_HOURS * 60)).optional(),
  })
  .transform((d): Duration => ({
    days: (d.weeks ?? 0) * 7 + (d.days ?? 0),
    hours: (d.hours ?? 0) + (d.minutes ?? 0) / 60,
  }));

/** `later` minus `earlier`, part by part (engine R4). */
export function difference(later: Duration, earlier: Duration): Duration {
  return { days: later.days - earlier.days, hours: later.hours - earlier.hours };
}

/** Roughly how long a duration is, in hours: a day is taken as 24. */
export const durationHours = (d: Duration): number => d.days * 24 + d.hours;
