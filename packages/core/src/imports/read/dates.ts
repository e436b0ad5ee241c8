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
const [ZERO, NINE, MINUS, PLUS, POINT, COLON, LETTER_T, LETTER_Z] = [48, 57, 45, 43, 46, 58, 84, 90];
const SLASHED = /^(\d{1,2})[/.-](\d{1,2})[/.-](\d{4}|\d{2})(?![\d/.-])/;
const DAY_AND_MONTH = /^(\d{1,2})(?:\/(\d{1,2})|\.(\d{1,2})\.)$/;
const YEAR_FIRST = /^(\d{4})[-/.](\d{1,2})[-/.](\d{1,2})(?![\d/.-])/;
const WORDED = /^([a-z]{3,9})\.? (\d{1,2})(?:st|nd|rd|th)?(?![\d:])(?:,? (\d{4})(?![\d:]))?/i;
const WORDED_DAY_FIRST = /^(\d{1,2})(?:st|nd|rd|th)?\.?[ -]([a-z]{3,9})\.?(?:[ ,-]{1,2}(\d{4})(?![\d:]))?/i;
const WEEKDAY =
  /^(?:mon|tue|tues|wed|thu|thur|thurs|fri|sat|sun|monday|tuesday|wednesday|thursday|friday|saturday|sunday)\.?,? /i;
const SHORT_NUMBER = /^\s*\d{1,2}[/.-]/;
const ENDS_WITH_OFFSET = /T.*([zZ]|[+-]\d{2}:?\d{2})$/;
const EARLIEST = Date.UTC(1970, 0, 1);
const LATEST = Date.UTC(2101, 0, 1);

/** What the dates of a column have shown so far. */
export class DayOrders {
  private monthFirst = false;
  private dayFirst = false;

  see(value: string, inHeader = false): void {
    // A date of this kind begins with a digit and has a non-digit as its second or third character.
    if (value.length > LONGEST || !SHORT_NUMBER.test(value)) return;
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
  const plain = readExact(value);
  if (plain) return plain;
  const exact = EXACT.exec(value);
  if (exact) {
    // The common form without the cost of a calendar; a day that its month does not have is not a date.
    const [, year, month, day] = exact;
    const isDay = new Date(Date.UTC(Number(year), Number(month) - 1, Number(day))).getUTCDate() === Number(day);
    const at = isDay ? Date.parse(value) : NaN;
    return Number.isNaN(at) ? { ok: false, code: 'date' } : inRange(at);
  }
  if (ENDS_WITH_OFFSET.test(value)) {
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

/** A text that is an instant on its own, whatever the course and the other dates are; null for any other text, though it may be a date. */
export function readExact(text: string): ReadDate | null {
  const at = exactInstant(text);
  return at === null ? null : inRange(at);
}

/**
 * The instant of `2026-01-12T09:30:00-05:00` or `2026-01-12T14:30:00.250Z`, the forms in which programs write millions; null for any other text,
 * and where one of the numbers is unusual.
 */
function exactInstant(text: string): Instant | null {
  const hasMs = text.charCodeAt(19) === POINT;
  const end = hasMs ? 23 : 19;
  const isZulu = text.charCodeAt(end) === LETTER_Z;
  if (text.length !== end + (isZulu ? 1 : 6)) return null;
  if (text.charCodeAt(4) !== MINUS || text.charCodeAt(7) !== MINUS || text.charCodeAt(10) !== LETTER_T) return null;
  if (text.charCodeAt(13) !== COLON || text.charCodeAt(16) !== COLON) return null;
  const year = twoDigits(text, 0) * 100 + twoDigits(text, 2);
  const [month, day] = [twoDigits(text, 5), twoDigits(text, 8)];
  const [hour, minute, second] = [twoDigits(text, 11), twoDigits(text, 14), twoDigits(text, 17)];
  const ms = hasMs ? twoDigits(text, 20) * 10 + (twoDigits(text, 21) % 10) : 0;
  const ahead = isZulu ? 0 : offsetAt(text, end);
  // A day that not every month has is looked at more closely elsewhere; so is what is no number.
  const isPlain = year >= 1970 && month >= 1 && month <= 12 && day >= 1 && day <= 28 && hour <= 23 && minute <= 59;
  if (!isPlain || !(second <= 59 && ms <= 999 && Math.abs(ahead) < 15 * 60)) return null;
  return Date.UTC(year, month - 1, day, hour, minute - ahead, second, ms);
}

/** The minutes of `-05:00`; NaN for anything else. */
function offsetAt(text: string, at: number): number {
  const sign = text.charCodeAt(at);
  if ((sign !== PLUS && sign !== MINUS) || text.charCodeAt(at + 3) !== COLON) return NaN;
  const minutes = twoDigits(text, at + 4);
  return minutes > 59 ? NaN : (sign === MINUS ? -1 : 1) * (twoDigits(text, at + 1) * 60 + minutes);
}

/** Two digits from a place on; NaN where there are none. */
function twoDigits(text: string, at: number): number {
  const [a, b] = [text.charCodeAt(at), text.charCodeAt(at + 1)];
  return a >= ZERO && a <= NINE && b >= ZERO && b <= NINE ? (a - ZERO) * 10 + b - ZERO : NaN;
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
