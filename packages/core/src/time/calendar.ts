/** The calendar of a course: local dates, breaks, and instants that are so many days away. */
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
  /**
   * `addCourseDays` of x by n = 1, 2, 3 and so on, as long as it is before `until`, each followed by its n, written into `steps`
   * from the place `from` on. Gives the place behind the last.
   */
  courseDaysInto(steps: number[], from: number, x: Instant, until: Instant): number;
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

export function courseCalendar(dates: {
  timeZone: string;
  start: string;
  end: string;
  breaks?: readonly Break[] | undefined;
}): CourseCalendar {
  const zone = zoneOf(dates.timeZone);
  const days = openDays(dates);
  const dayNumber = (t: Instant) => Math.floor(zone.toWall(t) / DAY);
  const addDays = (x: Instant, days: number) => zone.toInstant(zone.toWall(x) + days * DAY);
  const addCourseDays = (x: Instant, n: number): Instant => {
    if (n === 0) return x;
    const wall = zone.toWall(x);
    const day = Math.floor(wall / DAY);
    return zone.toInstant(wall + (days.after(day, n) - day) * DAY);
  };
  return {
    zone,
    start: zone.toInstant(dayNumberOf(dates.start) * DAY),
    end: zone.toInstant((dayNumberOf(dates.end) + 1) * DAY),
    add: (x, d) => addDays(x, d.days) + Math.round(d.hours * HOUR),
    addDays,
    addCourseDays,
    courseDaysInto(into, from, x, until) {
      const wall = zone.toWall(x);
      const day = Math.floor(wall / DAY);
      let place = from;
      for (let n = 1; ; n++) {
        const at = zone.toInstant(wall + (days.after(day, n) - day) * DAY);
        if (at >= until) return place;
        into[place++] = at;
        into[place++] = n;
      }
    },
    addCourse: (x, d) => addCourseDays(x, d.days) + Math.round(d.hours * HOUR),
    courseDaysBetween(x, t) {
      let n = days.until(dayNumber(t)) - days.until(dayNumber(x));
      // A clock change can put the n-th day's wall-clock time after t on t's own date.
      while (n > 0 && addCourseDays(x, n) > t) n--;
      return n;
    },
    dayStart: (t) => zone.toInstant(dayNumber(t) * DAY),
    dayNumber,
    isBreakDay: (day) => days.isBreak(day),
  };
}

/** How far around a course its breaks are looked at, in days: what it counts lies within. */
const AROUND = 400;

interface OpenDays {
  isBreak(day: number): boolean;
  /** The n-th day after `day` that lies in no break. */
  after(day: number, n: number): number;
  /** How many days up to and including `day` lie in no break, from a fixed day on. */
  until(day: number): number;
}

/** The days of no break, laid out once, so that a count of days is a look-up however long a break is. */
function openDays(dates: { start: string; end: string; breaks?: readonly Break[] | undefined }): OpenDays {
  const first = dayNumberOf(dates.start) - AROUND;
  const last = dayNumberOf(dates.end) + AROUND;
  const closed = new Uint8Array(last - first + 1);
  for (const b of dates.breaks ?? []) {
    const from = Math.max(0, dayNumberOf(b.from) - first);
    const to = Math.min(closed.length - 1, dayNumberOf(b.to) - first);
    if (from <= to) closed.fill(1, from, to + 1);
  }
  const open: number[] = [];
  const untilDay = new Int32Array(closed.length);
  for (let i = 0; i < closed.length; i++) {
    if (closed[i] === 0) open.push(first + i);
    untilDay[i] = open.length;
  }
  const until = (day: number): number => {
    if (day < first) return day - first + 1;
    return day > last ? open.length + day - last : untilDay[day - first]!;
  };
  const after = (day: number, n: number): number => {
    const wanted = until(day) + n;
    if (wanted <= 0) return first + wanted - 1;
    return wanted > open.length ? last + wanted - open.length : open[wanted - 1]!;
  };
  return { until, after, isBreak: (day) => day >= first && day <= last && closed[day - first] === 1 };
}
