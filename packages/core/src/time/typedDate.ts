/** Dates as people type them in a sentence. */
import { dateOf, dayNumberOf } from './calendar.ts';
import { dateWords } from './words.ts';

export const MONTHS = [
  ...['january', 'february', 'march', 'april', 'may', 'june', 'july'],
  ...['august', 'september', 'october', 'november', 'december'],
];

/** 1 to 12 of a month’s name or of its first three letters, in any case; 0 for none. */
export const monthOf = (name: string): number => {
  const short = name.slice(0, 3).toLowerCase();
  return MONTHS.findIndex((month) => month.startsWith(short)) + 1;
};

/** The years that a run touches. */
export function yearsOf(run: { readonly start: string; readonly end: string }): readonly number[] {
  const [first, last] = [run.start, run.end].map((date) => Number(date.slice(0, 4))) as [number, number];
  return Array.from({ length: last - first + 1 }, (_, i) => first + i);
}

/** The date of a run, both ends included, that is meant by a month and a day; without a year, any of the run’s. Null for none. */
export function dateWithin(
  run: { readonly start: string; readonly end: string },
  month: number,
  day: number,
  year?: number,
): string | null {
  const years = year === undefined ? yearsOf(run) : [year];
  for (const y of years) {
    const date = `${y}-${String(month).padStart(2, '0')}-${String(day).padStart(2, '0')}`;
    const known = dayNumberOf(date);
    if (date >= run.start && date <= run.end && !Number.isNaN(known) && dateOf(known) === date) return date;
  }
  return null;
}

/** "Sep 8"; with its year where the run does not have that day, or has it twice. Reads back as the same date (`dateWithin`). */
export function dateWordsIn(date: string, run: { readonly start: string; readonly end: string }): string {
  const [year, month, day] = date.split('-').map(Number) as [number, number, number];
  const fitting = yearsOf(run).filter((y) => dateWithin(run, month, day, y) !== null);
  return fitting.length === 1 && fitting[0] === year ? dateWords(date) : `${dateWords(date)}, ${year}`;
}
