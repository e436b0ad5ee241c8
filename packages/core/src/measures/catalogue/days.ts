/** Counts of whole calendar days: the greatest n with x + n days ≤ t (engine T2). */
import type { CourseCalendar } from '../../time/calendar.ts';
import { HOUR, type Instant } from '../../time/instant.ts';
import type { NumbersBuilder } from '../values/numbersBuilder.ts';

/** Writes 0, 1, 2 … days since x on `[from, until)`; needs x ≤ from. */
export function countDays(
  steps: NumbersBuilder,
  calendar: CourseCalendar,
  x: Instant,
  from: Instant,
  until: Instant,
): void {
  let n = daysBetween(calendar, x, from);
  steps.set(from, n);
  if (until - x < 23 * HOUR) return;
  for (n++; ; n++) {
    const at = calendar.addDays(x, n);
    if (at >= until) return;
    if (at > from) steps.set(at, n);
  }
}

export function daysBetween(calendar: CourseCalendar, x: Instant, t: Instant): number {
  let n = Math.max(0, calendar.dayNumber(t) - calendar.dayNumber(x));
  while (n > 0 && calendar.addDays(x, n) > t) n--;
  return n;
}
