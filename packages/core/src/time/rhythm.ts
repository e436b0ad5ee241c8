/**
 * When a rule looks (engine R1): the one door to the RFC 5545 library. The library walks a plain wall clock; the
 * zone is applied here, because it drops local times that a clock change skips where RFC 5545 §3.3.5 wants them taken
 * with the offset before the change. Steps of hours are exact, so they are walked apart on each side of a change.
 */
import { LRUCache } from 'lru-cache';
import { RRuleTemporal } from 'rrule-temporal';
import { Temporal } from 'temporal-polyfill';
import { z } from 'zod';
import { DAY, HOUR, type Instant } from './instant.ts';
import { dayNumberOf, type CourseCalendar } from './calendar.ts';
import { isLocalDate, localDateSchema } from './localDate.ts';

export interface Rhythm {
  /** Local date and time `YYYY-MM-DDTHH:MM`: a lower bound and the time of day. */
  readonly start: string;
  /** An RFC 5545 recurrence rule without UNTIL and COUNT. */
  readonly rrule: string;
  /** Local date, inclusive; the course's end when left out. */
  readonly until?: string | null | undefined;
  readonly skipBreaks: boolean;
}

const localDateTime = /^\d{4}-(0[1-9]|1[0-2])-(0[1-9]|[12]\d|3[01])T([01]\d|2[0-3]):[0-5]\d$/;

export const rhythmSchema = z.strictObject({
  start: z
    .string()
    .regex(localDateTime, 'Write the first look as 2026-09-08T09:30')
    .refine((s) => !localDateTime.test(s) || isLocalDate(s.slice(0, 10)), 'That date does not exist'),
  rrule: z.string().superRefine((text, ctx) => {
    const problem = rruleProblem(text);
    if (problem) ctx.addIssue({ code: 'custom', message: problem });
  }),
  until: localDateSchema.nullish(),
  skipBreaks: z.boolean().default(false),
});

/** Characters: every part with every value once is shorter. */
const LONGEST_RULE = 600;

/** What is wrong with a recurrence rule, in words, or null. */
export function rruleProblem(text: string): string | null {
  if (text.length > LONGEST_RULE) return 'This recurrence rule is too long';
  const parts = text.toUpperCase().split(';');
  for (const key of ['UNTIL', 'COUNT', 'DTSTART']) {
    if (parts.some((p) => p.startsWith(`${key}=`)))
      return `${key} is not used here: set the first and last date instead`;
  }
  const freq = parts.find((p) => p.startsWith('FREQ='))?.slice(5);
  if (!freq) return 'A recurrence rule begins with FREQ=';
  if (freq === 'SECONDLY' || freq === 'MINUTELY') return 'A rule looks at most every hour';
  if (!['HOURLY', 'DAILY', 'WEEKLY', 'MONTHLY', 'YEARLY'].includes(freq)) return `“${freq}” is no frequency`;
  const minutes = parts.find((p) => p.startsWith('BYMINUTE='))?.slice(9) ?? '';
  if (minutes.includes(',') || parts.some((p) => p.startsWith('BYSECOND='))) return 'A rule looks at most every hour';
  try {
    walk(text, Date.UTC(2026, 0, 5, 9), Date.UTC(2026, 0, 5, 9), Date.UTC(2026, 0, 6));
    return null;
  } catch (error) {
    return `This recurrence rule cannot be read: ${error instanceof Error ? error.message : 'unknown reason'}`;
  }
}

/**
 * The instants at which a rule looks, sorted, without duplicates, clipped to the course's run.
 * Bounds: `from` and `until` both included, as in the replay command.
 */
export function roundInstants(
  rhythm: Rhythm,
  calendar: CourseCalendar,
  from: Instant = -Infinity,
  until: Instant = Infinity,
): Instant[] {
  return termRounds(rhythm, calendar).filter((t) => t >= from && t <= until);
}

/** Schedules of a course with cached rounds: recurrences are slow to expand, and needed at every round and replay. */
const MOST_RHYTHMS = 200;
const laidOut = new WeakMap<CourseCalendar, LRUCache<string, readonly Instant[]>>();

/** All rounds of a rhythm in a course. */
function termRounds(rhythm: Rhythm, calendar: CourseCalendar): readonly Instant[] {
  let ofCourse = laidOut.get(calendar);
  if (!ofCourse) laidOut.set(calendar, (ofCourse = new LRUCache({ max: MOST_RHYTHMS })));
  const key = JSON.stringify([rhythm.start, rhythm.rrule, rhythm.until ?? null, rhythm.skipBreaks]);
  let rounds = ofCourse.get(key);
  if (!rounds) ofCourse.set(key, (rounds = layOut(rhythm, calendar)));
  return rounds;
}

function layOut(rhythm: Rhythm, calendar: CourseCalendar): Instant[] {
  const zone = calendar.zone;
  const startWall = Date.parse(`${rhythm.start}:00Z`);
  const lastWall = Math.min(
    rhythm.until ? (dayNumberOf(rhythm.until) + 1) * DAY - 1 : Infinity,
    zone.toWall(calendar.end - 1),
  );
  const lowest = Math.max(calendar.start, zone.toInstant(startWall));
  const highest = calendar.end - 1;
  const found = /FREQ=HOURLY/i.test(rhythm.rrule)
    ? hourly(rhythm.rrule, zone.toInstant(startWall), lowest, highest, calendar)
    : walk(rhythm.rrule, startWall, zone.toWall(lowest) - 2 * DAY, zone.toWall(highest) + 2 * DAY).map((wall) =>
        zone.toInstant(wall),
      );
  const unique = [...new Set(found)].sort((a, b) => a - b);
  return unique.filter(
    (t) =>
      t >= lowest &&
      t <= highest &&
      zone.toWall(t) <= lastWall &&
      !(rhythm.skipBreaks && calendar.isBreakDay(calendar.dayNumber(t))),
  );
}

/** The first instant of the schedule after t, or null after its end. */
export function nextRound(rhythm: Rhythm, calendar: CourseCalendar, after: Instant): Instant | null {
  return termRounds(rhythm, calendar).find((t) => t > after) ?? null;
}

/** Recurrences as wall-clock milliseconds in `[from, to]`, walked from `start` on a clock without changes. */
function walk(rrule: string, start: number, from: number, to: number): number[] {
  if (to < from) return [];
  const rule = new RRuleTemporal({
    rruleString: `DTSTART:${compact(start)}\nRRULE:${rrule.replace(/^RRULE:/i, '').toUpperCase()}`,
    tzid: 'UTC',
    temporal: Temporal,
  });
  const found: readonly unknown[] = rule.between(new Date(from), new Date(to), true);
  return found.map((d) => (d as Temporal.ZonedDateTime).epochMilliseconds);
}

/** Exact hours from `start`; BY parts are read off the wall clock on each side of a change. */
function hourly(rrule: string, start: Instant, from: Instant, to: Instant, calendar: CourseCalendar): Instant[] {
  const zone = calendar.zone;
  const interval = Number(/INTERVAL=(\d+)/i.exec(rrule)?.[1] ?? 1) * HOUR;
  const out: Instant[] = [];
  let segmentStart = start;
  while (segmentStart <= to) {
    const offset = zone.toWall(segmentStart) - segmentStart;
    let segmentEnd = segmentStart;
    // Offsets change at most a few times a year: step by days, then narrow to the change.
    while (segmentEnd <= to && zone.toWall(segmentEnd) - segmentEnd === offset) segmentEnd += DAY;
    if (segmentEnd <= to || zone.toWall(segmentEnd) - segmentEnd !== offset) {
      let lo = segmentEnd - DAY;
      while (segmentEnd - lo > 1) {
        const mid = Math.floor((lo + segmentEnd) / 2);
        if (zone.toWall(mid) - mid === offset) lo = mid;
        else segmentEnd = mid;
      }
    }
    const first = start + Math.ceil((segmentStart - start) / interval) * interval;
    if (segmentEnd > from && first < segmentEnd) {
      for (const wall of walk(
        rrule,
        first + offset,
        Math.max(first, from) + offset,
        Math.min(segmentEnd - 1, to) + offset,
      )) {
        out.push(wall - offset);
      }
    }
    segmentStart = segmentEnd;
  }
  return out;
}

const compact = (wall: number): string => `${new Date(wall).toISOString().slice(0, 19).replace(/[-:]/g, '')}Z`;
