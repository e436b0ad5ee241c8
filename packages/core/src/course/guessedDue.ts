/** When an item may be due, guessed from the week in its title; proposed, never decided. */
import { DAY, MINUTE, type Instant } from '../time/instant.ts';
import { dayNumberOf } from '../time/calendar.ts';
import type { Course } from './course.ts';

const WEEK = /\b(?:week|wk)\.? ?#?(\d{1,2})\b/i;

/** 23:59 on the last day of that week, the first beginning on the course's first day; null where no week of the course is named. */
export function guessedDue(title: string, course: Pick<Course, 'start' | 'end' | 'calendar'>): Instant | null {
  const [, week] = WEEK.exec(title.slice(0, 200)) ?? [];
  if (week === undefined || Number(week) === 0) return null;
  const last = dayNumberOf(course.start) + 7 * Number(week) - 1;
  if (last - 6 > dayNumberOf(course.end)) return null;
  const day = Math.min(last, dayNumberOf(course.end));
  return course.calendar.zone.toInstant(day * DAY + (24 * 60 - 1) * MINUTE);
}
