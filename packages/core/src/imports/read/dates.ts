/**
 * Dates as people and programs write them ([F12]), read in the course's zone. Day-month order is proven by its column or not at
 * all; a date without a year is the one that fits the course.
 */
import { MONTHS } from '../../time/typedDate.ts';
import type { Zone } from '../../time/zone.ts';
import { DAY, HOUR, MINUTE, parseInstant, type Instant } from '../../time/instant.ts';

export type ReadDate =
  | { readonly ok: true; readonly at: Instant }
  | { readonly ok: false; readonly code: 'date' | 'ambiguousDate' | 'dateRange' };

export type DayOrder = 'monthFirst' | 'dayFirst' | 'unknown';

/** What a date without a year is read by. */
export interface DateFrame {
  /** The course's first instant and the one behind its last day. */
  readonly start: Instant;
  readonly end: Instant;
  /** The file's own instant. */
  readonly asOf: Instant;
}

export interface DateReading {
  readonly zone: Zone;
  readonly order: DayOrder;
  /** What a date without a time means, 23:59 of it instead of 00:00. */
  readonly endOfDay?: boolean;
  /** If absent, a date without a year is not a date. */
  readonly frame?: DateFrame | undefined;
  /** In a header “9/14” and “14.9.” are dates ([F23]); in a cell they are a fraction and a number. */
  readonly inHeader?: boolean;
}

/** Longer texts are no dates. */
const LONGEST = 64;
const EXACT = /^(\d{4})-(\d{2})-(\d{2})T\d{2}:\d{2}(?::\d{2}(?:\.\d{1,3})?)?(?:Z|[+-]\d{2}:\d{2})$/;
const SLASHED = /^(\d{1,2})[/.-](\d{1,2})[/.-](\d{4}|\d{2})(?![\d/.-])/;
const DAY_AND_MONTH = /^(\d{1,2})(?:\/(\d{1,2})|\.(\d{1,2})\.)$/;
const YEAR_FIRST = /^(\d{4})[-/.](\d{1,2})[-/.](\d{1,2})(?![\d/.-])/;
const WORDED = /^([a-z]{3,9})\.? (\d{1,2})(?:st|nd|rd|th)?(?![\d:])(?:,? (\d{4})(?![\d:]))?/i;
const WORDED_DAY_FIRST = /^(\d{1,2})(?:st|nd|rd|th)?\.?[ -]([a-z]{3,9})\.?(?:[ ,-]{1,2}(\d{4})(?![\d:]))?/i;
const WEEKDAY =
  /^(?:mon|tue|tues|wed|thu|thur|thurs|fri|sat|sun|monday|tuesday|wednesday|thursday|friday|saturday|sunday)\.?,? /i;
const EARLIEST = Date.UTC(1970, 0, 1);
const LATEST = Date.UTC(2101, 0, 1);

/** What the dates of a column have shown so far. */
export class DayOrders {
  private monthFirst = false;
  private dayFirst = false;

  see(value: string, inHeader = false): void {
    // A date of this kind begins with a digit and has a non-digit as its second or third character.
    if (value.length > LONGEST || !/^\s*\d{1,2}[/.-]/.test(value)) return;
    const [, a, b] = SLASHED.exec(value.trim()) ?? (inHeader ? dayAndMonth(value.trim()) : null) ?? [];
    if (a === undefined) return;
    if (Number(a) > 12) this.dayFirst = true;
    if (Number(b) > 12) this.monthFirst = true;
  }

  /** Proven by a number that is over 12; `unknown` where nothing decides, or both do. */
  get order(): DayOrder {
    return this.monthFirst === this.dayFirst ? 'unknown' : this.monthFirst ? 'monthFirst' : 'dayFirst';
  }
}

/** The text and its two numbers; null for another text. */
function dayAndMonth(text: string): readonly [string, string, string] | null {
  const [all, a, slashed, dotted] = DAY_AND_MONTH.exec(text) ?? [];
  return a === undefined ? null : [all!, a, (slashed ?? dotted)!];
}

/** Which number is the day in the headers of a table. */
export function dayOrderOf(headers: readonly string[]): DayOrder {
  const orders = new DayOrders();
  for (const header of headers) orders.see(header, true);
  return orders.order;
}

export function readDate(text: string, reading: DateReading): ReadDate {
  const { zone, order, endOfDay = false, frame, inHeader = false } = reading;
  const value = text.trim();
  if (value === '' || value.length > LONGEST) return { ok: false, code: 'date' };
  const exact = EXACT.exec(value);
  if (exact) {
    // The common form without the cost of a calendar; a day that its month does not have is not a date.
    const [, year, month, day] = exact;
    const isDay = new Date(Date.UTC(Number(year), Number(month) - 1, Number(day))).getUTCDate() === Number(day);
    const at = isDay ? Date.parse(value) : NaN;
    return Number.isNaN(at) ? { ok: false, code: 'date' } : inRange(at);
  }
  if (/T.*([zZ]|[+-]\d{2}:?\d{2})$/.test(value)) {
    try {
      return inRange(parseInstant(value));
    } catch {
      // Seconds left out, an hour of one digit: read below.
    }
  }
  const parts = partsOf(value.replace(WEEKDAY, '').split(/\s+/).join(' '), order, inHeader);
  if (typeof parts === 'string') return { ok: false, code: parts };
  const time = parts.rest === '' ? { ms: endOfDay ? DAY - MINUTE : 0, offset: null } : timeOf(parts.rest);
  if (time === null) return { ok: false, code: 'date' };
  if (parts.year !== null) return atDay(parts.year, parts, time, zone);
  if (!frame) return { ok: false, code: 'date' };
  return withoutYear(frame, (year) => atDay(year, parts, time, zone));
}

/** The year that lies within the course, of two the latest not after the file; of none the nearest before the course's end. */
function withoutYear(frame: DateFrame, read: (year: number) => ReadDate): ReadDate {
  const last = new Date(frame.end).getUTCFullYear();
  const years = Array.from({ length: 6 }, (_, i) => last + 1 - i);
  const found = years.map(read).filter((r) => r.ok);
  if (found.length === 0) return { ok: false, code: 'date' };
  // From the latest to the earliest.
  const within = found.filter((r) => r.at >= frame.start && r.at < frame.end);
  return (
    within.find((r) => r.at <= frame.asOf) ?? within.at(-1) ?? found.find((r) => r.at < frame.end) ?? found.at(-1)!
  );
}

interface DateParts {
  readonly year: number | null;
  readonly month: number;
  readonly day: number;
  /** What follows the date. */
  readonly rest: string;
}

interface TimeOfDay {
  /** Since midnight. */
  readonly ms: number;
  /** Ahead of UTC, in ms; null: the course's zone. */
  readonly offset: number | null;
}

function atDay(year: number, { month, day }: DateParts, time: TimeOfDay, zone: Zone): ReadDate {
  const midnight = Date.UTC(year, month - 1, day);
  const valid = new Date(midnight);
  if (valid.getUTCMonth() !== month - 1 || valid.getUTCDate() !== day) return { ok: false, code: 'date' };
  if (midnight < EARLIEST || midnight >= LATEST - DAY) return { ok: false, code: 'dateRange' };
  const wall = midnight + time.ms;
  return inRange(time.offset === null ? zone.toInstant(wall) : wall - time.offset);
}

const inRange = (at: Instant): ReadDate =>
  at < EARLIEST || at >= LATEST ? { ok: false, code: 'dateRange' } : { ok: true, at };

function partsOf(value: string, order: DayOrder, inHeader: boolean): DateParts | 'date' | 'ambiguousDate' {
  const restOf = (all: string) =>
    value
      .slice(all.length)
      .replace(/^[ ,T]{1,3}/i, '')
      .replace(/^at /i, '');
  const yearFirst = YEAR_FIRST.exec(value);
  if (yearFirst) {
    const [all, year, month, day] = yearFirst;
    return { year: Number(year), month: Number(month), day: Number(day), rest: restOf(all) };
  }
  const slashed = SLASHED.exec(value) ?? (inHeader ? dayAndMonth(value) : null);
  if (slashed) {
    const [a, b] = [Number(slashed[1]), Number(slashed[2])];
    const year = fullYear(slashed[3]);
    if (order === 'unknown' && a !== b && a <= 12 && b <= 12) return 'ambiguousDate';
    const dayFirst = order === 'dayFirst' || (order === 'unknown' && a > 12);
    return { year, month: dayFirst ? b : a, day: dayFirst ? a : b, rest: restOf(slashed[0]) };
  }
  const worded = WORDED.exec(value);
  const month = monthOf(worded?.[1]);
  if (worded && month > 0) return { year: yearOf(worded[3]), month, day: Number(worded[2]), rest: restOf(worded[0]) };
  const dayWorded = WORDED_DAY_FIRST.exec(value);
  const second = monthOf(dayWorded?.[2]);
  if (dayWorded && second > 0)
    return { year: yearOf(dayWorded[3]), month: second, day: Number(dayWorded[1]), rest: restOf(dayWorded[0]) };
  return 'date';
}

/** Two digits are of this century. */
const fullYear = (text: string | undefined): number | null =>
  text === undefined ? null : Number(text) + (text.length === 2 ? 2000 : 0);

const yearOf = (text: string | undefined): number | null => (text === undefined ? null : Number(text));

/** 1 to 12 for a month's name, whole or short; 0 for any other word. */
function monthOf(name: string | undefined): number {
  const plain = (name ?? '').toLowerCase();
  if (plain === 'sept') return 9;
  return plain.length < 3 ? 0 : MONTHS.findIndex((m) => m === plain || (plain.length === 3 && m.startsWith(plain))) + 1;
}

const TIME =
  /^(\d{1,2})(?::(\d{2}))?(?::(\d{2})(?:\.\d{1,9})?)? ?([ap]\.?m\.?)?(?: ?(Z|UTC|GMT)?([+-]\d{2}:?\d{2})?)?$/i;

/** “9:30 PM”, “21:30:15”, “9 am”, “21:30 UTC”, “21:30 -0400”; null for anything else, another zone's name too. */
function timeOf(text: string): TimeOfDay | null {
  const [, h, m = '0', s = '0', half, utc, offset] = TIME.exec(text.trim()) ?? [];
  if (h === undefined) return null;
  const hour = Number(h);
  if (half ? hour < 1 || hour > 12 : hour > 23) return null;
  // “14” alone is a number, no time.
  if (Number(m) > 59 || Number(s) > 59 || (!half && !text.includes(':'))) return null;
  const pm = half?.toLowerCase().startsWith('p');
  const ms = ((half ? (hour % 12) + (pm ? 12 : 0) : hour) * 60 + Number(m)) * MINUTE + Number(s) * 1000;
  if (offset === undefined) return { ms, offset: utc === undefined ? null : 0 };
  const digits = offset.replace(':', '');
  const ahead = Number(digits.slice(1, 3)) * HOUR + Number(digits.slice(3)) * MINUTE;
  return ahead > 14 * HOUR ? null : { ms, offset: digits.startsWith('-') ? -ahead : ahead };
}
