import type { Rhythm } from '../time/rhythm.ts';
import { clockWords, dateWords, listWords } from '../time/words.ts';
import type { CourseFile } from '../course/course.ts';

export const WEEKDAYS = ['MO', 'TU', 'WE', 'TH', 'FR', 'SA', 'SU'] as const;
export type Weekday = (typeof WEEKDAYS)[number];

export const WEEKDAY_NAMES: Readonly<Record<Weekday, string>> = {
  MO: 'Monday',
  TU: 'Tuesday',
  WE: 'Wednesday',
  TH: 'Thursday',
  FR: 'Friday',
  SA: 'Saturday',
  SU: 'Sunday',
};

/** The rhythms that the composer's controls can say; everything else is kept as the recurrence rule it is. */
export type PlainRhythm =
  | { readonly every: 'day'; readonly interval: number }
  | { readonly every: 'week'; readonly interval: number; readonly days: readonly Weekday[] };

/** Reads a recurrence rule as one of the plain rhythms, or null. */
export function plainRhythm(rrule: string): PlainRhythm | null {
  const parts = new Map(
    rrule
      .toUpperCase()
      .split(';')
      .map((p) => p.split('=') as [string, string]),
  );
  const interval = Number(parts.get('INTERVAL') ?? 1);
  const keys = [...parts.keys()].filter((k) => k !== 'FREQ' && k !== 'INTERVAL');
  if (parts.get('FREQ') === 'DAILY' && keys.length === 0) return { every: 'day', interval };
  if (parts.get('FREQ') !== 'WEEKLY' || keys.some((k) => k !== 'BYDAY')) return null;
  const days = (parts.get('BYDAY') ?? '').split(',').filter(Boolean);
  if (days.length === 0 || days.some((d) => !WEEKDAYS.includes(d as Weekday))) return null;
  return { every: 'week', interval, days: WEEKDAYS.filter((d) => days.includes(d)) };
}

export function rruleOf(plain: PlainRhythm): string {
  const interval = plain.interval > 1 ? `;INTERVAL=${plain.interval}` : '';
  return plain.every === 'day' ? `FREQ=DAILY${interval}` : `FREQ=WEEKLY${interval};BYDAY=${plain.days.join(',')}`;
}

/** "every weekday at 9:30 AM" */
export function rhythmWords(rhythm: Rhythm): string {
  const plain = plainRhythm(rhythm.rrule);
  const at = `at ${clockWords(rhythm.start.slice(11, 16))}`;
  if (!plain) return `by the rule ${rhythm.rrule} from ${clockWords(rhythm.start.slice(11, 16))}`;
  if (plain.every === 'day') return plain.interval === 1 ? `every day ${at}` : `every ${plain.interval} days ${at}`;
  const often = plain.interval === 1 ? 'every' : `every ${plain.interval} weeks on`;
  const days = plain.days.join();
  if (days === 'MO,TU,WE,TH,FR') return plain.interval === 1 ? `every weekday ${at}` : `${often} weekdays ${at}`;
  if (plain.days.length === 7) return plain.interval === 1 ? `every day ${at}` : `${often} all days ${at}`;
  return `${often} ${listWords(plain.days.map((d) => WEEKDAY_NAMES[d]))} ${at}`;
}

/** "Sep 8 to Dec 11" */
export function runWords(rhythm: Rhythm, course: Pick<CourseFile, 'start' | 'end'>): string {
  const from = rhythm.start.slice(0, 10);
  const until = rhythm.until ?? course.end;
  return `${dateWords(from < course.start ? course.start : from)} to ${dateWords(until)}`;
}
