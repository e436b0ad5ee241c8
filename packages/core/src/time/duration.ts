import { z } from 'zod';

/** Calendar days in the course's zone, then exact hours (engine T2). */
export interface Duration {
  readonly days: number;
  readonly hours: number;
}

/** Ten years: longer than any course runs, and short enough to be counted. */
const MOST_DAYS = 3660;
const part = z.number().nonnegative();

/** Accepts `weeks` as 7 days and `minutes` as sixtieths of an hour; days must be whole (engine T2). */
export const durationSchema = z
  .strictObject({
    weeks: part
      .int()
      .max(MOST_DAYS / 7, 'At most ten years')
      .optional(),
    days: part.int().max(MOST_DAYS, 'At most ten years').optional(),
    hours: part.max(MOST_DAYS * 24, 'At most ten years').optional(),
    minutes: part.max(MOST_DAYS * 24 * 60, 'At most ten years').optional(),
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
