/** How dates of one course become dates of another (engine K1, K2): by whole weeks, so that weekdays stay. */
import type { Course } from '../course/course.ts';
import { dateOf, dayNumberOf, weekdayIndex } from '../time/calendar.ts';
import { DAY, type Instant } from '../time/instant.ts';
import type { Rhythm } from '../time/rhythm.ts';
import { WEEKDAYS } from '../time/weekday.ts';

/** As much of a course as says when it runs. */
export type Run = Pick<Course, 'start' | 'end' | 'calendar'>;

export interface Shift {
  /** Whole weeks, in days: from the Monday of the one start's week to the Monday of the other's. */
  readonly days: number;
  /** A local date, moved and not clipped. */
  date(date: string): string;
  /** The same wall clock in the other zone; times that are skipped there or occur twice as in [R1]. */
  instant(t: Instant): Instant;
  /** The first day of something: no day before the other course begins. */
  first(date: string): string;
  /** The last day of something: no day after the other course ends. */
  last(date: string): string;
}

const mondayOf = (date: string): number => {
  const day = dayNumberOf(date);
  return day - weekdayIndex(day);
};

export function shiftBetween(source: Run, target: Run): Shift {
  const days = mondayOf(target.start) - mondayOf(source.start);
  const date = (text: string) => dateOf(dayNumberOf(text) + days);
  return {
    days,
    date,
    instant: (t) => target.calendar.zone.toInstant(source.calendar.zone.toWall(t) + days * DAY),
    first(text) {
      if (text <= source.start) return target.start;
      const moved = date(text);
      return moved < target.start ? target.start : moved;
    },
    last(text) {
      if (text >= source.end) return target.end;
      const moved = date(text);
      return moved > target.end ? target.end : moved;
    },
  };
}

/** What a person has to look at in a rhythm that was moved; `path` within the rhythm. */
export interface DateProblem {
  readonly path: 'start' | 'until' | 'rrule';
  /** The date or the recurrence that does not fit. */
  readonly name: string;
}

/** A rhythm in the other course's dates, and what of it does not fit there. */
export function shiftRhythm(rhythm: Rhythm, shift: Shift, target: Run): { rhythm: Rhythm; problems: DateProblem[] } {
  const problems: DateProblem[] = [];
  const rrule = withWeekday(rhythm);
  const first = shift.first(rhythm.start.slice(0, 10));
  if (first > target.end) problems.push({ path: 'start', name: first });
  const last = rhythm.until == null ? null : shift.last(rhythm.until);
  const ends = last !== null && last >= first;
  if (last !== null && !ends) problems.push({ path: 'until', name: last });
  if (NAMES_MONTHS.test(rrule)) problems.push({ path: 'rrule', name: rrule });
  const { until: _until, ...rest } = rhythm;
  return {
    rhythm: { ...rest, start: `${first}${rhythm.start.slice(10)}`, rrule, ...(ends ? { until: last } : {}) },
    problems,
  };
}

/** Months and days of a month do not move by weeks. */
const NAMES_MONTHS = /(?:^|[;:])\s*(?:BYMONTH|BYMONTHDAY)=/i;

/** A weekly rule that names no day runs on its first day's weekday, which clipping would change. */
function withWeekday({ rrule, start }: Rhythm): string {
  if (!/(?:^|[;:])\s*FREQ=WEEKLY/i.test(rrule) || /(?:^|[;:])\s*BYDAY=/i.test(rrule)) return rrule;
  return `${rrule};BYDAY=${WEEKDAYS[weekdayIndex(dayNumberOf(start.slice(0, 10)))]}`;
}
