/** Dates and times as a person says them, in the course's zone: "Tue Oct 20, 9:14 PM". */
import type { Instant } from './instant.ts';
import type { Duration } from './duration.ts';

const formats = new Map<string, Intl.DateTimeFormat>();

function format(zone: string, name: string, options: Intl.DateTimeFormatOptions, t: Instant): string {
  const key = `${zone} ${name}`;
  let f = formats.get(key);
  if (!f) {
    f = new Intl.DateTimeFormat('en-US', { ...options, timeZone: zone });
    formats.set(key, f);
  }
  // Newer ICU puts a narrow no-break space before AM and PM, which old mail programs show as a box.
  return f.format(t).replace(/[\u202f\u00a0]/g, ' ');
}

/** "Tue Oct 20" */
export const dayWords = (t: Instant, zone: string): string =>
  format(zone, 'day', { weekday: 'short', month: 'short', day: 'numeric' }, t).replace(',', '');

/** "9:14 PM" */
export const timeWords = (t: Instant, zone: string): string =>
  format(zone, 'time', { hour: 'numeric', minute: '2-digit' }, t);

/** "Tue Oct 20, 9:14 PM" */
export const instantWords = (t: Instant, zone: string): string => `${dayWords(t, zone)}, ${timeWords(t, zone)}`;

/** "Tuesday, October 20" for letters. */
export const longDayWords = (t: Instant, zone: string): string =>
  format(zone, 'long', { weekday: 'long', month: 'long', day: 'numeric' }, t);

/** "Tue Oct 20" of a local date. */
export const weekdayDateWords = (date: string): string => dayWords(Date.parse(`${date}T12:00:00Z`), 'UTC');

/** "Sep 8" of a local date. */
export const dateWords = (date: string): string =>
  format('UTC', 'date', { month: 'short', day: 'numeric' }, Date.parse(`${date}T12:00:00Z`));

/** "9:30 AM", "4 PM" of a local time `HH:MM`. */
export const clockWords = (hhmm: string): string =>
  timeWords(Date.parse(`2026-01-01T${hhmm}:00Z`), 'UTC').replace(':00', '');

/** "1 day", "3 days" */
export const plural = (n: number, one: string, many = `${one}s`): string => `${numberWords(n)} ${n === 1 ? one : many}`;

/** A number in full, with commas: what a sentence says is what is meant. */
export const exactWords = (n: number): string => inFull.format(n);

const inFull = new Intl.NumberFormat('en-US', { maximumFractionDigits: 20 });

const grouped = new Intl.NumberFormat('en-US');

/** "2,000", "0.5": at most two decimals, without trailing zeros; for display only (engine M1). */
export function numberWords(n: number): string {
  const shown = rounded(n, 2);
  return Math.abs(shown) < 1000 ? String(shown) : grouped.format(shown);
}

/** At most one decimal, without trailing zeros. */
export const oneDecimal = (n: number): string => String(rounded(n, 1));

const rounded = (n: number, decimals: number): number => Math.round(n * 10 ** decimals) / 10 ** decimals;

/**
 * "64.9%": at most one decimal; three where one would make it look like the threshold beside it (64.98% is not "65%" to
 * somebody who reads "under 65%", engine M1).
 */
export function percentWords(percent: number, threshold?: number): string {
  const blurred = threshold !== undefined && percent !== threshold && rounded(percent, 1) === threshold;
  return `${rounded(percent, blurred ? 3 : 1)}%`;
}

export function durationWords(d: Duration): string {
  const parts = [d.days > 0 ? plural(d.days, 'day') : '', d.hours > 0 ? plural(d.hours, 'hour') : ''].filter(Boolean);
  return parts.length === 0 ? 'at once' : parts.join(' and ');
}

/** "2 days and 3.5 hours", in full. */
export function exactDurationWords({ days, hours }: Duration): string {
  const part = (n: number, unit: string) => (n > 0 ? [`${exactWords(n)} ${unit}${n === 1 ? '' : 's'}`] : []);
  return [...part(days, 'day'), ...part(hours, 'hour')].join(' and ');
}

/** "a", "a and b", "a, b and c"; where something has a comma of its own, "a, 1; b, 2; and c, 3". */
export function listWords(words: readonly string[], joiner = 'and'): string {
  if (words.length <= 1) return words[0] ?? '';
  const [first, last] = [words.slice(0, -1), words.at(-1)];
  if (words.some((w) => w.includes(','))) return `${first.join('; ')}; ${joiner} ${last}`;
  return `${first.join(', ')} ${joiner} ${last}`;
}
