/** Dates as people and programs write them, read in the course's zone. Day-month order is proven by its column or not at all. */
import type { Zone } from '../time/zone.ts';
import { DAY, MINUTE, parseInstant, type Instant } from '../time/instant.ts';

export type ReadDate =
  | { readonly ok: true; readonly at: Instant }
  | { readonly ok: false; readonly code: 'date' | 'ambiguousDate' | 'dateRange' };

export type DayOrder = 'monthFirst' | 'dayFirst' | 'unknown';

const SLASHED = /^(\d{1,2})[/.-](\d{1,2})[/.-](\d{4}|\d{2})(?:[ ,T]+(.+))?$/;
const ISO = /^(\d{4})-(\d{2})-(\d{2})(?:[T ](.+))?$/;
const WORDED = /^(?:[a-z]{3,9},? )?([a-z]{3,9})\.? (\d{1,2}),? (\d{4})(?:,? (?:at )?(.+))?$/i;
const WORDED_DAY_FIRST = /^(?:[a-z]{3,9},? )?(\d{1,2})\.? ([a-z]{3,9})\.? (\d{4})(?:,? (?:at )?(.+))?$/i;
const EXACT = /^(\d{4})-(\d{2})-(\d{2})T\d{2}:\d{2}(?::\d{2}(?:\.\d{1,3})?)?(?:Z|[+-]\d{2}:\d{2})$/;
const MONTHS = ['jan', 'feb', 'mar', 'apr', 'may', 'jun', 'jul', 'aug', 'sep', 'oct', 'nov', 'dec'];
const EARLIEST = Date.UTC(1970, 0, 1);
const LATEST = Date.UTC(2101, 0, 1);

/** What the dates of a column have shown so far. */
export class DayOrders {
  private monthFirst = false;
  private dayFirst = false;

  see(value: string): void {
    // A date of this kind begins with a digit and has a third or second character that is none.
    if (value.length < 6 || value.length > 40 || !/^\s*\d{1,2}[/.-]/.test(value)) return;
    const [, a, b] = SLASHED.exec(value.trim()) ?? [];
    if (Number(a) > 12) this.dayFirst = true;
    if (Number(b) > 12) this.monthFirst = true;
  }

  /** Proven by a number that is over 12; `unknown` where nothing decides, or both do. */
  get order(): DayOrder {
    return this.monthFirst === this.dayFirst ? 'unknown' : this.monthFirst ? 'monthFirst' : 'dayFirst';
  }
}

/** Which number is the day in a column. */
export function dayOrderOf(values: readonly string[]): DayOrder {
  const orders = new DayOrders();
  for (const value of values) orders.see(value);
  return orders.order;
}

/** `endOfDay`: what a date without a time means, 23:59 of it instead of 00:00. */
export function readDate(text: string, zone: Zone, order: DayOrder, endOfDay = false): ReadDate {
  const value = text.trim();
  const exact = EXACT.exec(value);
  if (exact) {
    // The common form without the cost of a calendar; a day that its month does not have is none.
    const [, year, month, day] = exact;
    const isDay = new Date(Date.UTC(Number(year), Number(month) - 1, Number(day))).getUTCDate() === Number(day);
    const at = isDay ? Date.parse(value) : NaN;
    return Number.isNaN(at) ? { ok: false, code: 'date' } : inRange(at);
  }
  if (/T.*([zZ]|[+-]\d{2}:?\d{2})$/.test(value)) {
    try {
      return inRange(parseInstant(value));
    } catch {
      return { ok: false, code: 'date' };
    }
  }
  const parts = partsOf(value, order);
  if (typeof parts === 'string') return { ok: false, code: parts };
  const day = Date.UTC(parts.year, parts.month - 1, parts.day);
  const valid = new Date(day);
  const minutes = parts.time === undefined ? (endOfDay ? 24 * 60 - 1 : 0) : minutesOf(parts.time);
  if (valid.getUTCMonth() !== parts.month - 1 || valid.getUTCDate() !== parts.day || minutes === null) {
    return { ok: false, code: 'date' };
  }
  return day < EARLIEST || day >= LATEST - DAY
    ? { ok: false, code: 'dateRange' }
    : inRange(zone.toInstant(day + minutes * MINUTE));
}

const inRange = (at: Instant): ReadDate =>
  at < EARLIEST || at >= LATEST ? { ok: false, code: 'dateRange' } : { ok: true, at };

interface Parts {
  readonly year: number;
  readonly month: number;
  readonly day: number;
  readonly time: string | undefined;
}

function partsOf(value: string, order: DayOrder): Parts | 'date' | 'ambiguousDate' {
  const iso = ISO.exec(value);
  if (iso) return { year: Number(iso[1]), month: Number(iso[2]), day: Number(iso[3]), time: iso[4] };
  const slashed = SLASHED.exec(value);
  if (slashed) {
    const [a, b] = [Number(slashed[1]), Number(slashed[2])];
    const year = Number(slashed[3]) + (slashed[3]!.length === 2 ? 2000 : 0);
    if (order === 'unknown' && a !== b && a <= 12 && b <= 12) return 'ambiguousDate';
    const dayFirst = order === 'dayFirst' || (order === 'unknown' && a > 12);
    return { year, month: dayFirst ? b : a, day: dayFirst ? a : b, time: slashed[4] };
  }
  const worded = WORDED.exec(value);
  const month = monthOf(worded?.[1]);
  if (worded && month > 0) return { year: Number(worded[3]), month, day: Number(worded[2]), time: worded[4] };
  const dayWorded = WORDED_DAY_FIRST.exec(value);
  const second = monthOf(dayWorded?.[2]);
  if (dayWorded && second > 0)
    return { year: Number(dayWorded[3]), month: second, day: Number(dayWorded[1]), time: dayWorded[4] };
  return 'date';
}

const monthOf = (name: string | undefined): number => MONTHS.indexOf((name ?? '').slice(0, 3).toLowerCase()) + 1;

/** Minutes since midnight of "9:30 PM", "21:30", "21:30:15", "9 am"; null for anything else. */
function minutesOf(time: string): number | null {
  const [, h, m = '0', half] =
    /^(\d{1,2})(?::(\d{2}))?(?::\d{2}(?:\.\d+)?)?\s*([ap]\.?m\.?)?$/i.exec(time.trim()) ?? [];
  if (h === undefined) return null;
  const hour = Number(h);
  if (half ? hour < 1 || hour > 12 : hour > 23) return null;
  if (Number(m) > 59) return null;
  const pm = half?.toLowerCase().startsWith('p');
  return (half ? (hour % 12) + (pm ? 12 : 0) : hour) * 60 + Number(m);
}
