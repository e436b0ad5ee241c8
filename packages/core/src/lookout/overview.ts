/** The state of a class as a whole at an instant: scores, submissions against their due instants, activity, what waits for a grade. */
import { kindBitOf } from '../activity/actCode.ts';
import { PARTICIPATION, VISITS } from '../activity/event.ts';
import type { History } from '../activity/history.ts';
import type { Course } from '../course/course.ts';
import { dateOf, dayNumberOf, weekdayIndex } from '../time/calendar.ts';
import { countingAmong, doneBy } from '../measures/catalogue/several.ts';
import type { Subject } from '../measures/values/measure.ts';
import { daysBetween } from '../measures/catalogue/days.ts';
import { DAY, HOUR, type Instant } from '../time/instant.ts';
import type { Gradebook } from './gradebook.ts';
import { quartilesOf, type Quartiles } from '../outcomes/quartiles.ts';

export interface ItemScores {
  readonly item: string;
  /** Percent, ascending. */
  readonly scores: readonly number[];
  readonly spread: Quartiles;
  readonly mean: number;
}

export interface ItemSubmissions {
  readonly item: string;
  readonly due: Instant | null;
  readonly onTime: number;
  readonly late: number;
  readonly missing: number;
  readonly open: number;
  /** Hours from handing in to the due instant that is the student’s own, ascending; below zero is late. */
  readonly hoursEarly: readonly number[];
}

export interface DayOfClass {
  /** Local date. */
  readonly day: string;
  /** Students who did anything in the course, and those who practiced, submitted or posted. */
  readonly active: number;
  readonly working: number;
  readonly events: number;
}

/** Seven days of the term, counted from its first day. */
export interface WeekOfClass {
  /** From 1. */
  readonly week: number;
  /** Local dates, both included; the last week may be cut short by the end of the term or by today. */
  readonly from: string;
  readonly to: string;
  /** Students who did anything in the course in that week, and those who practiced, submitted or posted. */
  readonly active: number;
  readonly working: number;
  readonly events: number;
}

export interface ItemWaiting {
  readonly item: string;
  readonly waiting: number;
  /** Whole calendar days since each was handed in, ascending. */
  readonly days: readonly number[];
}

/** How many students have opened a page, practiced, or turned an item in; those for whom it does not count are left out. */
export interface ItemDone {
  readonly item: string;
  readonly did: number;
  readonly not: number;
}

export interface ClassOverview {
  readonly at: Instant;
  readonly students: number;
  readonly scores: readonly ItemScores[];
  readonly submissions: readonly ItemSubmissions[];
  readonly days: readonly DayOfClass[];
  readonly weeks: readonly WeekOfClass[];
  /** Events of the course by weekday (Monday first) and local hour: 7 rows of 24. */
  readonly hours: readonly (readonly number[])[];
  readonly waiting: readonly ItemWaiting[];
  /** Items that can be opened by now, in the course's order. */
  readonly done: readonly ItemDone[];
}

/** `subjects`: the active students, as the measures see them. */
export function classOverview(
  course: Course,
  history: History,
  book: Gradebook,
  subjects: readonly Subject[],
): ClassOverview {
  const { at, students, items } = book.about;
  const { calendar } = course;
  const scores: ItemScores[] = [];
  const submissions: ItemSubmissions[] = [];
  const waiting: ItemWaiting[] = [];
  items.forEach((item, column) => {
    const summary = book.summary(column);
    if (summary.scores.length > 0) {
      const sorted = summary.scores.toSorted((a, b) => a - b);
      scores.push({ item, scores: sorted, spread: quartilesOf(sorted)!, mean: summary.mean! });
    }
    const hoursEarly: number[] = [];
    const days: number[] = [];
    for (let row = 0; row < students.length; row++) {
      const cell = book.cell(row, column);
      if (cell.doneAt !== null && cell.dueAt !== null) hoursEarly.push((cell.dueAt - cell.doneAt) / HOUR);
      if (cell.awaitsGrade && cell.doneAt !== null) days.push(daysBetween(calendar, cell.doneAt, at));
    }
    const started = summary.onTime + summary.late + summary.missing > 0;
    if (started)
      submissions.push({
        item,
        due: course.items[course.itemIndex.get(item)!]!.dueAt,
        onTime: summary.onTime,
        late: summary.late,
        missing: summary.missing,
        open: summary.open,
        hoursEarly: hoursEarly.toSorted((a, b) => a - b),
      });
    if (days.length > 0) waiting.push({ item, waiting: days.length, days: days.toSorted((a, b) => a - b) });
  });
  const done = doneByItem(course, subjects, at);
  return {
    at,
    students: students.length,
    scores,
    submissions,
    ...activityOf(course, history, students, at),
    waiting,
    done,
  };
}

/** Counted as the measure `submitted` finds them (engine H4, H6, H7). */
function doneByItem(course: Course, subjects: readonly Subject[], at: Instant): readonly ItemDone[] {
  const released = course.items.flatMap(({ opensAt }, i) => (opensAt === null || opensAt <= at ? [i] : []));
  const did = new Int32Array(course.items.length);
  const not = new Int32Array(course.items.length);
  for (const subject of subjects) {
    if (subject.story > at) continue;
    for (const item of countingAmong(subject, released)) (doneBy(item, at) ? did : not)[item.index]!++;
  }
  return released.map((i) => ({ item: course.items[i]!.id, did: did[i]!, not: not[i]! }));
}

const WEEK_DAYS = 7;

function activityOf(course: Course, history: History, students: readonly string[], at: Instant) {
  const { calendar } = course;
  const first = dayNumberOf(course.start);
  const last = Math.min(calendar.dayNumber(at), dayNumberOf(course.end));
  const count = Math.max(0, last - first + 1);
  const starts = Float64Array.from({ length: count + 1 }, (_, d) => calendar.zone.toInstant((first + d) * DAY));
  const events = new Int32Array(count);
  const active = new Int32Array(count);
  const working = new Int32Array(count);
  const weekCount = Math.ceil(count / WEEK_DAYS);
  const weeks = {
    events: new Int32Array(weekCount),
    active: new Int32Array(weekCount),
    working: new Int32Array(weekCount),
  };
  const hours = Array.from({ length: 7 }, () => new Array<number>(24).fill(0));
  for (const student of students) {
    const { times, codes, length } = history.logOf(student);
    let day = 0;
    let seen = -1;
    let worked = -1;
    let seenWeek = -1;
    let workedWeek = -1;
    for (let i = 0; i < length; i++) {
      const t = times[i]!;
      if (t > at) break;
      if (count === 0 || t < starts[0]!) continue;
      while (day < count && t >= starts[day + 1]!) day++;
      if (day === count) break;
      const bit = kindBitOf(codes[i]!);
      if ((bit & VISITS) === 0) continue;
      const week = Math.floor(day / WEEK_DAYS);
      events[day]!++;
      weeks.events[week]!++;
      if (seenWeek !== week) weeks.active[(seenWeek = week)]!++;
      if ((bit & PARTICIPATION) !== 0 && workedWeek !== week) weeks.working[(workedWeek = week)]!++;
      if (seen !== day) active[(seen = day)]!++;
      if ((bit & PARTICIPATION) !== 0 && worked !== day) working[(worked = day)]!++;
      const local = calendar.zone.toWall(t);
      hours[weekdayIndex(first + day)]![Math.floor((local - (first + day) * DAY) / HOUR)]!++;
    }
  }
  return {
    days: Array.from({ length: count }, (_, d) => ({
      day: dateOf(first + d),
      active: active[d]!,
      working: working[d]!,
      events: events[d]!,
    })),
    weeks: Array.from({ length: weekCount }, (_, w) => ({
      week: w + 1,
      from: dateOf(first + w * WEEK_DAYS),
      to: dateOf(first + Math.min((w + 1) * WEEK_DAYS, count) - 1),
      active: weeks.active[w]!,
      working: weeks.working[w]!,
      events: weeks.events[w]!,
    })),
    hours,
  };
}
