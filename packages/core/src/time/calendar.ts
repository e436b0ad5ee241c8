import { DAY, HOUR, type Instant } from './instant.ts';
import type { Duration } from './duration.ts';
import { zoneOf, type Zone } from './zone.ts';

/** Inclusive local dates, `YYYY-MM-DD`. */
export interface Break {
  readonly from: string;
  readonly to: string;
  readonly name?: string | undefined;
}

/** The dates of a course in its zone (engine T3, T4). */
export interface CourseCalendar {
  readonly zone: Zone;
  /** 00:00 of the first day. */
  readonly start: Instant;
  /** The end of the last day: the first instant that is no longer in the course. */
  readonly end: Instant;
  /** Same wall-clock time `days` calendar days later, then exact hours (engine T2). */
  add(x: Instant, duration: Duration): Instant;
  addDays(x: Instant, days: number): Instant;
  /** The wall-clock time of x on the n-th date after x's date that lies in no break (engine T4). */
  addCourseDays(x: Instant, n: number): Instant;
  /** Days of the duration are course days, its hours exact. */
  addCourse(x: Instant, duration: Duration): Instant;
  /** The greatest whole n ≥ 0 with x + n course days ≤ t; needs x ≤ t. */
  courseDaysBetween(x: Instant, t: Instant): number;
  /** The latest local midnight ≤ t. */
  dayStart(t: Instant): Instant;
  /** Whole days since 1970-01-01 of t's local date. */
  dayNumber(t: Instant): number;
  isBreakDay(dayNumber: number): boolean;
}

export const dayNumberOf = (date: string): number => Date.parse(`${date}T00:00:00Z`) / DAY;
export const dateOf = (dayNumber: number): string => new Date(dayNumber * DAY).toISOString().slice(0, 10);

/** 0 is Monday. 1970-01-01, day 0, was a Thursday. */
export const weekdayIndex = (dayNumber: number): number => (((dayNumber + 3) % 7) + 7) % 7;

export function courseCalendar(of: {
  timeZone: string;
  start: string;
  end: string;
  breaks?: readonly Break[] | undefined;
}): CourseCalendar {
  const zone = zoneOf(of.timeZone);
  const breakDays = new Set<number>();
  for (const b of of.breaks ?? []) {
    for (let d = dayNumberOf(b.from); d <= dayNumberOf(b.to); d++) breakDays.add(d);
  }
  const dayNumber = (t: Instant) => Math.floor(zone.toWall(t) / DAY);
  const addDays = (x: Instant, days: number) => zone.toInstant(zone.toWall(x) + days * DAY);
  const courseDate = (day: number, n: number): number => {
    if (breakDays.size === 0) return day + n;
    let left = n;
    while (left > 0) if (!breakDays.has(++day)) left--;
    return day;
  };
  const addCourseDays = (x: Instant, n: number): Instant => {
    if (n === 0) return x;
    const wall = zone.toWall(x);
    const day = Math.floor(wall / DAY);
    return zone.toInstant(wall + (courseDate(day, n) - day) * DAY);
  };
  return {
    zone,
    start: zone.toInstant(dayNumberOf(of.start) * DAY),
    end: zone.toInstant((dayNumberOf(of.end) + 1) * DAY),
    add: (x, d) => addDays(x, d.days) + Math.round(d.hours * HOUR),
    addDays,
    addCourseDays,
    addCourse: (x, d) => addCourseDays(x, d.days) + Math.round(d.hours * HOUR),
    courseDaysBetween(x, t) {
      let n = 0;
      const last = dayNumber(t);
      for (let day = dayNumber(x) + 1; day <= last; day++) if (!breakDays.has(day)) n++;
      // A clock change can put the n-th day's wall-clock time after t on t's own date.
      while (n > 0 && addCourseDays(x, n) > t) n--;
      return n;
    },
    dayStart: (t) => zone.toInstant(dayNumber(t) * DAY),
    dayNumber,
    isBreakDay: (d) => breakDays.has(d),
  };
}
