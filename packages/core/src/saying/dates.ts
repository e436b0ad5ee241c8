/** Dates, times of day and windows as people type them ([Y3]). */
import { MONTHS, dateWithin, yearsOf } from '../time/typedDate.ts';
import { dateOf, dayNumberOf } from '../time/calendar.ts';
import { WEEKDAY_NAMES, WEEKDAYS, type Weekday } from '../time/weekday.ts';
import type { Window } from '../time/window.ts';
import {
  either,
  map,
  nothing,
  optional,
  pastArticles,
  reading,
  then,
  want,
  word,
  words,
  type Parser,
  type Source,
} from './parsers.ts';
import { wholeDays } from './quantities.ts';

/** The abbreviations of a day, beside its name and its plural. */
const SHORT: Readonly<Record<Weekday, readonly string[]>> = {
  MO: ['mon'],
  TU: ['tue', 'tues'],
  WE: ['wed'],
  TH: ['thu', 'thur', 'thurs'],
  FR: ['fri'],
  SA: ['sat'],
  SU: ['sun'],
};

export const weekday: Parser<Weekday> = either(
  ...WEEKDAYS.map((day) => {
    const full = WEEKDAY_NAMES[day].toLowerCase();
    return map(word(full, `${full}s`, ...SHORT[day]), () => day);
  }),
);

const month: Parser<number> = either(
  ...MONTHS.map((full, i) => map(word(full, full.slice(0, 3), ...(i === 8 ? ['sept'] : [])), () => i + 1)),
);

/** A whole number in digits, between two bounds, with "st" or "th" behind it or not. */
export const digits =
  (from: number, to: number): Parser<number> =>
  (source, start) => {
    const at = pastArticles(source, start);
    const token = source.tokens[at];
    const n = token?.kind === 'number' && /^\d+$/.test(token.text) ? Number(token.text) : NaN;
    if (!(n >= from && n <= to)) {
      want(source, at, '{number}');
      return [];
    }
    const next = source.tokens[at + 1];
    const isOrdinal = next?.from === token!.to && /^(?:st|nd|rd|th)$/.test(next.text);
    return [reading(n, at + (isOrdinal ? 2 : 1))];
  };

const year = then(optional(word(',')), digits(1990, 2060), (_, y) => y);

interface DayOfYear {
  readonly month: number;
  readonly day: number;
  readonly year: number | null;
}

/** The dates that are meant: without a year, those of the term. */
function datesOf({ course }: Source, said: DayOfYear): readonly string[] {
  if (said.year !== null) {
    const exact = `${said.year}-${String(said.month).padStart(2, '0')}-${String(said.day).padStart(2, '0')}`;
    const number = dayNumberOf(exact);
    return !Number.isNaN(number) && dateOf(number) === exact ? [exact] : [];
  }
  return yearsOf(course).flatMap((y) => dateWithin(course, said.month, said.day, y) ?? []);
}

const spelled: Parser<DayOfYear> = either(
  then(
    then(month, digits(1, 31), (m, day) => ({ month: m, day })),
    optional(year),
    (d, y) => ({ ...d, year: y }),
  ),
  then(
    then(
      digits(1, 31),
      then(optional(word('of')), month, (_, m) => m),
      (day, m) => ({ month: m, day }),
    ),
    optional(year),
    (d, y) => ({ ...d, year: y }),
  ),
);

/** A date in digits: with its year first, or its month. */
const numeric: Parser<DayOfYear> = (source, at) => {
  const token = source.tokens[at];
  if (token?.kind !== 'date') return [];
  const [a = 0, b = 0, c] = token.text.split(/[-/.]/).map(Number);
  if (/^\d{4}-/.test(token.text)) return [reading({ year: a, month: b, day: c ?? 0 }, at + 1)];
  const full = c === undefined ? null : c < 100 ? 2000 + c : c;
  const dayFirst = token.text.includes('.');
  return [reading(dayFirst ? { month: b, day: a, year: full } : { month: a, day: b, year: full }, at + 1)];
};

/** A date; more than one where the term has that day twice. */
export const date: Parser<string> = (source, at) => {
  const found = then(
    optional(then(weekday, optional(word(',')), () => null)),
    either(spelled, numeric),
    (_, d) => d,
  )(source, at);
  if (found.length === 0) want(source, at, '{date}');
  return found.flatMap((r) => datesOf(source, r.value).map((value) => ({ ...r, value })));
};

/** A time of day as `HH:MM`. */
export const clock: Parser<string> = (source, at) => {
  const token = source.tokens[at];
  if (token?.text === 'noon') return [reading('12:00', at + 1)];
  if (token?.text === 'midnight') return [reading('00:00', at + 1)];
  const said =
    token?.kind === 'time'
      ? /^(\d{1,2})(?::(\d{2}))?([ap])?/.exec(token.text)
      : token?.kind === 'number'
        ? /^(\d{1,2})$/.exec(token.text)
        : null;
  const [, hour, minute = '0', half] = said ?? [];
  const h = hour === undefined ? NaN : Number(hour);
  const fits = half === undefined ? h <= 23 : h >= 1 && h <= 12;
  if (!fits || Number(minute) > 59) {
    want(source, at, '{time}');
    return [];
  }
  const hours = half === undefined ? h : (h % 12) + (half === 'p' ? 12 : 0);
  return [reading(`${String(hours).padStart(2, '0')}:${minute.padStart(2, '0')}`, at + 1)];
};

const last = words('last|past');
const week: Window = { this: 'week' };

/** A window, or none ([M4]). */
export const window: Parser<Window | null> = either<Window | null>(
  nothing,
  map(words('this week'), () => week),
  map(words('since monday'), () => week),
  map(
    then(
      optional(word('in', 'within', 'over', 'during')),
      then(last, wholeDays, (_, days) => days),
      (_, d) => d,
    ),
    (days) => ({ last: { days } }),
  ),
  map(
    then(optional(word('in', 'within', 'over', 'during')), words('last|past week'), () => null),
    () => ({ last: { days: 7 } }),
  ),
  map(
    then(word('since'), date, (_, d) => d),
    (since) => ({ since }),
  ),
);
