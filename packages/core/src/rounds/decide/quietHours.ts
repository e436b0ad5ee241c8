/** Quiet hours: when a message that is due may leave. */
import { z } from 'zod';
import type { Course, QuietHours } from '../../course/course.ts';
import { weekdayIndex } from '../../time/calendar.ts';
import { DAY, MINUTE, type Instant } from '../../time/instant.ts';
import { WEEKDAYS } from '../../time/weekday.ts';

const localTime = z.string().regex(/^([01]\d|2[0-3]):[0-5]\d$/, 'Type a time such as 21:00');

export const quietHoursSchema = z
  .strictObject({ from: localTime.nullish(), to: localTime.nullish(), days: z.array(z.enum(WEEKDAYS)).default([]) })
  .refine((q) => (q.from == null) === (q.to == null), {
    message: 'Choose when quiet hours begin and when they end',
    path: ['to'],
  })
  .refine((q) => new Set(q.days).size < 7, {
    message: 'Leave at least one moment of the week open, so that mail can leave',
    path: ['days'],
  });

const minutesOf = (hhmm: string): number => Number(hhmm.slice(0, 2)) * 60 + Number(hhmm.slice(3));
const weekdayOf = (dayNumber: number) => WEEKDAYS[weekdayIndex(dayNumber)]!;

/** Whether t lies in quiet hours: local `[from, to)`, over midnight if need be, or a quiet day (engine R8). */
export function isQuiet(t: Instant, quiet: QuietHours, course: Pick<Course, 'calendar'>): boolean {
  const wall = course.calendar.zone.toWall(t);
  const day = Math.floor(wall / DAY);
  if (quiet.days?.includes(weekdayOf(day))) return true;
  if (!quiet.from || !quiet.to || quiet.from === quiet.to) return false;
  const from = minutesOf(quiet.from) * MINUTE;
  const to = minutesOf(quiet.to) * MINUTE;
  const time = wall - day * DAY;
  return from < to ? time >= from && time < to : time >= from || time < to;
}

/** The first instant ≥ t at which mail may leave (engine R8). */
export function firstOpen(t: Instant, quiet: QuietHours | null, course: Pick<Course, 'calendar'>): Instant {
  if (!quiet || !isQuiet(t, quiet, course)) return t;
  const { zone } = course.calendar;
  const today = Math.floor(zone.toWall(t) / DAY);
  // Quiet can only end at midnight or at the end of the quiet hours.
  const ends = [0, ...(quiet.to ? [minutesOf(quiet.to) * MINUTE] : [])].sort((a, b) => a - b);
  for (let day = today; day <= today + 8; day++) {
    for (const end of ends) {
      const at = zone.toInstantFrom(day * DAY + end, t);
      if (at !== null && !isQuiet(at, quiet, course)) return at;
    }
  }
  throw new Error('Quiet hours leave no open moment in a week');
}
