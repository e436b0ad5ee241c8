/** When a rule looks, as people type it ([Y3]). */
import { NTH_WORDS, NTHS, rruleOf, type PlainRhythm } from '../rules/rhythmWords.ts';
import { WEEKDAYS, type Weekday } from '../time/weekday.ts';
import { clock, date, digits, weekday } from './dates.ts';
import { either, list, map, optional, then, word, words, type Parser } from './parsers.ts';
import { count } from './quantities.ts';

export interface SaidRecurrence {
  readonly rrule: string;
  /** If it may be meant as a limit, such as “every 14 days”, of how many days; else null. */
  readonly gap: number | null;
  /** A week without a day of it. */
  readonly needsDay: boolean;
}

const recurs = (plain: PlainRhythm, gap: number | null = null, needsDay = false): SaidRecurrence => ({
  rrule: rruleOf(plain),
  gap,
  needsDay,
});

const WORKDAYS = WEEKDAYS.slice(0, 5);
const weekly = (interval: number, days: readonly Weekday[]): SaidRecurrence => {
  const chosen = WEEKDAYS.filter((d) => days.includes(d));
  return recurs(
    chosen.length === 7 && interval === 1 ? { every: 'day', interval: 1 } : { every: 'week', interval, days: chosen },
  );
};

const days: Parser<readonly Weekday[]> = either(
  map(words('weekdays|weekday'), () => WORKDAYS),
  map(words('weekends|weekend'), () => WEEKDAYS.slice(5)),
  map(words('all days'), () => WEEKDAYS),
  list(weekday, 7),
);

const on = optional(word('on'));
const everyN = (unit: string): Parser<number> =>
  either(
    then(
      word('every'),
      then(count, words(unit), (n) => n),
      (_, n) => n,
    ),
    map(words(`every other ${unit}`), () => 2),
  );

const monthDay: Parser<SaidRecurrence> = either(
  then(optional(word('day')), digits(1, 31), (_, n) => recurs({ every: 'month', on: { date: n } })),
  ...NTHS.map((nth) => then(word(NTH_WORDS[nth]), weekday, (_, day) => recurs({ every: 'month', on: { nth, day } }))),
);

/** How often a rule looks. */
export const recurrence: Parser<SaidRecurrence> = either<SaidRecurrence>(
  map(words('daily'), () => recurs({ every: 'day', interval: 1 })),
  map(words('every|each day'), () => recurs({ every: 'day', interval: 1 })),
  map(words('hourly'), () => recurs({ every: 'hour', interval: 1 })),
  map(words('every|each hour'), () => recurs({ every: 'hour', interval: 1 })),
  map(everyN('hour|hours'), (interval) => recurs({ every: 'hour', interval })),
  then(
    word('every'),
    then(count, words('day|days'), (n) => n),
    (_, n) => recurs({ every: 'day', interval: n }, n),
  ),
  map(words('every other day'), () => recurs({ every: 'day', interval: 2 })),
  then(
    optional(word('every', 'each')),
    then(on, days, (_, d) => d),
    (_, d) => weekly(1, d),
  ),
  then(
    words('weekly|every|each'),
    then(
      words('week'),
      then(word('on'), days, (_, d) => d),
      (_, d) => d,
    ),
    (_, d) => weekly(1, d),
  ),
  then(words('weekly on'), days, (_, d) => weekly(1, d)),
  then(words('once a week on'), days, (_, d) => weekly(1, d)),
  then(
    everyN('week|weeks'),
    then(on, days, (_, d) => d),
    weekly,
  ),
  map(words('once a week'), () => recurs({ every: 'week', interval: 1, days: ['MO'] }, 7, true)),
  map(everyN('week|weeks'), (interval) => recurs({ every: 'week', interval, days: ['MO'] }, 7 * interval, true)),
  then(
    words('monthly|every|each'),
    then(
      optional(word('month')),
      then(word('on'), monthDay, (_, m) => m),
      (_, m) => m,
    ),
    (_, m) => m,
  ),
);

/** “once” before a time or a date, which it leaves for others to read. */
export const onOneDate: Parser<SaidRecurrence> = (source, at) =>
  word('once')(source, at)
    .filter((once) => {
      const [comma] = word(',')(source, once.end);
      const from = comma?.end ?? once.end;
      return timeOfDay(source, from).length > 0 || onDate(source, from).length > 0;
    })
    .map((r) => ({ ...r, value: recurs({ every: 'once' }) }));

/** The time of day at which it looks, as `HH:MM`. */
export const timeOfDay: Parser<string> = (source, at) => {
  const token = source.tokens[at];
  // A bare number is a time only behind “at” or “from”.
  const bare = token?.kind === 'time' || token?.text === 'noon' || token?.text === 'midnight' ? clock(source, at) : [];
  return [...bare, ...then(word('at', 'from'), clock, (_, time) => time)(source, at)];
};

/** First and last date of a run; null for one that is not said. */
export interface SaidRun {
  readonly from: string | null;
  readonly until: string | null;
}

const onDate: Parser<SaidRun> = then(word('on'), date, (_, d) => ({ from: d, until: d }));
const termEnd = optional(
  then(
    then(words('( term ends'), date, () => null),
    word(')'),
    () => null,
  ),
);
const span: Parser<SaidRun> = then(
  then(optional(word('from')), date, (_, d) => d),
  then(word('to', 'until', 'till', 'through', '-', '–'), date, (_, d) => d),
  (from, until) => ({ from, until }),
);

const open: Parser<SaidRun> = then(
  word('from', 'starting', 'beginning'),
  then(on, date, (_, d) => d),
  (_, from) => ({ from, until: null }),
);

/** From when until when a rule looks. */
export const run: Parser<SaidRun> = either(
  then(either(onDate, span, open), termEnd, (r) => r),
  then(word('until', 'till', 'through'), date, (_, until) => ({ from: null, until })),
);
