/** When a rule runs, in words. */
import { WEEKDAYS, type Weekday, WEEKDAY_NAMES } from '../time/weekday.ts';
import type { Rhythm } from '../time/rhythm.ts';
import { dateWordsIn } from '../time/typedDate.ts';
import { clockWords, listWords } from '../time/words.ts';
import type { CourseFile } from '../course/course.ts';

/** The rhythms that the composer's controls can say; everything else is kept as the recurrence rule it is. */
export type PlainRhythm =
  /** On one date alone: the rhythm's first day is its last. */
  | { readonly every: 'once' }
  | { readonly every: 'hour' | 'day'; readonly interval: number }
  | { readonly every: 'week'; readonly interval: number; readonly days: readonly Weekday[] }
  | { readonly every: 'month'; readonly on: MonthDay };

/** The first to fourth or the last (−1) weekday of a month, or a date of it. */
export type MonthDay = { readonly nth: MonthlyPlace; readonly day: Weekday } | { readonly date: number };
export const NTHS = [1, 2, 3, 4, -1] as const;
export type MonthlyPlace = (typeof NTHS)[number];
export const NTH_WORDS: Readonly<Record<MonthlyPlace, string>> = {
  1: 'first',
  2: 'second',
  3: 'third',
  4: 'fourth',
  [-1]: 'last',
};

type Recurrence = Pick<Rhythm, 'rrule' | 'start' | 'until'>;

const isOneDate = (r: Pick<Rhythm, 'start' | 'until'>): boolean => r.until === r.start.slice(0, 10);

/** Reads a rhythm as one of the plain ones, or null. */
export function plainRhythm(rhythm: Recurrence): PlainRhythm | null {
  const parts = new Map(
    rhythm.rrule
      .toUpperCase()
      .split(';')
      .map((p) => p.split('=') as [string, string]),
  );
  const interval = Number(parts.get('INTERVAL') ?? 1);
  const keys = [...parts.keys()].filter((k) => k !== 'FREQ' && k !== 'INTERVAL');
  const freq = parts.get('FREQ');
  if (freq === 'DAILY' && keys.length === 0) {
    return interval === 1 && isOneDate(rhythm) ? { every: 'once' } : { every: 'day', interval };
  }
  if (freq === 'HOURLY' && keys.length === 0) return { every: 'hour', interval };
  if (freq === 'MONTHLY') return interval === 1 ? monthly(parts, keys) : null;
  if (freq !== 'WEEKLY' || keys.some((k) => k !== 'BYDAY')) return null;
  const days = (parts.get('BYDAY') ?? '').split(',').filter(Boolean);
  if (days.length === 0 || days.some((d) => !WEEKDAYS.includes(d as Weekday))) return null;
  return { every: 'week', interval, days: WEEKDAYS.filter((d) => days.includes(d)) };
}

function monthly(parts: ReadonlyMap<string, string>, keys: readonly string[]): PlainRhythm | null {
  if (keys.join() === 'BYMONTHDAY') {
    const date = Number(parts.get('BYMONTHDAY'));
    return Number.isInteger(date) && date >= 1 && date <= 31 ? { every: 'month', on: { date } } : null;
  }
  if (keys.join() !== 'BYDAY') return null;
  const [, number, day] = /^\+?(-?\d)([A-Z]{2})$/.exec(parts.get('BYDAY') ?? '') ?? [];
  const nth = NTHS.find((n) => n === Number(number));
  const known = WEEKDAYS.find((d) => d === day);
  return nth !== undefined && known !== undefined ? { every: 'month', on: { nth, day: known } } : null;
}

export function rruleOf(plain: PlainRhythm): string {
  if (plain.every === 'once') return 'FREQ=DAILY';
  if (plain.every === 'month') {
    return `FREQ=MONTHLY;${'date' in plain.on ? `BYMONTHDAY=${plain.on.date}` : `BYDAY=${plain.on.nth}${plain.on.day}`}`;
  }
  const interval = plain.interval > 1 ? `;INTERVAL=${plain.interval}` : '';
  if (plain.every === 'week') return `FREQ=WEEKLY${interval};BYDAY=${plain.days.join(',')}`;
  return `FREQ=${plain.every === 'hour' ? 'HOURLY' : 'DAILY'}${interval}`;
}

/** The rhythm with another recurrence; a single date ends on its first day, and what was one date runs to the course's end. */
export function withPlain<R extends Recurrence>(rhythm: R, plain: PlainRhythm): R {
  const until = plain.every === 'once' ? rhythm.start.slice(0, 10) : isOneDate(rhythm) ? null : rhythm.until;
  return { ...rhythm, rrule: rruleOf(plain), until };
}

/** "every weekday at 9:30 AM" */
export function rhythmWords(rhythm: Rhythm): string {
  const plain = plainRhythm(rhythm);
  const time = clockWords(rhythm.start.slice(11, 16));
  const at = `at ${time}`;
  if (!plain) return `on a schedule of your own, ${at}`;
  switch (plain.every) {
    case 'once':
      return `once, ${at}`;
    case 'hour':
      return plain.interval === 1 ? `every hour from ${time}` : `every ${plain.interval} hours from ${time}`;
    case 'day':
      return plain.interval === 1 ? `every day ${at}` : `every ${plain.interval} days ${at}`;
    case 'week':
      return `${weekWords(plain.interval, plain.days)} ${at}`;
    case 'month':
      return `every month on ${monthDayWords(plain.on)} ${at}`;
  }
}

const monthDayWords = (on: MonthDay): string =>
  'date' in on ? `day ${on.date}` : `the ${NTH_WORDS[on.nth]} ${WEEKDAY_NAMES[on.day]}`;

function weekWords(interval: number, days: readonly Weekday[]): string {
  const often = interval === 1 ? 'every' : `every ${interval} weeks on`;
  if (days.join() === 'MO,TU,WE,TH,FR') return interval === 1 ? 'every weekday' : `${often} weekdays`;
  if (days.length === 7) return interval === 1 ? 'every day' : `${often} all days`;
  return `${often} ${listWords(days.map((d) => WEEKDAY_NAMES[d]))}`;
}

/** "Sep 8 to Dec 11"; where it would run longer than the course, "Sep 8 to Jan 10, 2027 (the term ends Dec 18)"; "on Oct 24" for a single date. */
export function runWords(rhythm: Rhythm, course: Pick<CourseFile, 'start' | 'end'>): string {
  const from = rhythm.start.slice(0, 10);
  const until = rhythm.until ?? course.end;
  const words = (date: string) => dateWordsIn(date, course);
  const isAfter = from > course.end && until === course.end;
  const end = until > course.end || isAfter ? ` (the term ends ${words(course.end)})` : '';
  if (isAfter) return `from ${words(from)}${end}`;
  return until === from ? `on ${words(from)}${end}` : `${words(from)} to ${words(until)}${end}`;
}
