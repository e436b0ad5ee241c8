/** How long ago something was, as lists of last visits say it: “5 days 3 hours”, “2 wks ago”, “just now” ([F13]). */
import type { Zone } from '../../time/zone.ts';
import { DAY, HOUR, MINUTE, type Instant } from '../../time/instant.ts';

export interface RelativeAge {
  readonly at: Instant;
  /** Its last named unit, in ms: it may be that much off either way. */
  readonly unit: number;
}

/** Longer texts are no ages. */
const LONGEST = 64;
const MOST_PAIRS = 6;

type AgeUnit = 'year' | 'month' | 'week' | 'day' | 'hour' | 'minute' | 'second';
const UNITS: Readonly<Record<string, AgeUnit>> = {
  y: 'year',
  yr: 'year',
  yrs: 'year',
  year: 'year',
  years: 'year',
  mo: 'month',
  mos: 'month',
  mth: 'month',
  mths: 'month',
  month: 'month',
  months: 'month',
  w: 'week',
  wk: 'week',
  wks: 'week',
  week: 'week',
  weeks: 'week',
  d: 'day',
  day: 'day',
  days: 'day',
  h: 'hour',
  hr: 'hour',
  hrs: 'hour',
  hour: 'hour',
  hours: 'hour',
  m: 'minute',
  min: 'minute',
  mins: 'minute',
  minute: 'minute',
  minutes: 'minute',
  s: 'second',
  sec: 'second',
  secs: 'second',
  second: 'second',
  seconds: 'second',
};
const LENGTHS: Readonly<Record<AgeUnit, number>> = {
  year: 366 * DAY,
  month: 31 * DAY,
  week: 7 * DAY,
  day: DAY,
  hour: HOUR,
  minute: MINUTE,
  second: 1000,
};

const JUST_NOW = new Set(['just now', 'now', 'a moment ago', 'moments ago', 'less than a minute ago']);

/** Counted back from `from`: years and months by the calendar, weeks and days as calendar days, the rest exactly. Null for no age. */
export function readAge(text: string, from: Instant, zone: Zone): RelativeAge | null {
  if (text.length > LONGEST) return null;
  let plain = text.trim().toLowerCase();
  if (JUST_NOW.has(plain)) return { at: from, unit: MINUTE };
  if (plain.endsWith(' ago')) plain = plain.slice(0, -4).trimEnd();
  // “5d 3h”, “5 days, 3 hours and 2 minutes”.
  const words = plain
    .replace(/(\d)([a-z])/g, '$1 $2')
    .replace(/,/g, ' ')
    .split(/\s+/)
    .filter((w) => w !== 'and');
  if (words.length < 2 || words.length % 2 !== 0 || words.length > 2 * MOST_PAIRS) return null;
  const back = { year: 0, month: 0, day: 0 };
  let exact = 0;
  let unit = 0;
  for (let i = 0; i < words.length; i += 2) {
    const amount = /^(?:an?|\d{1,5})$/.test(words[i]!) ? Number(words[i]!.replace(/^an?$/, '1')) : NaN;
    const name = UNITS[words[i + 1]!.replace(/\.$/, '')];
    if (Number.isNaN(amount) || name === undefined) return null;
    if (name === 'year' || name === 'month' || name === 'day') back[name] += amount;
    else if (name === 'week') back.day += 7 * amount;
    else exact += amount * LENGTHS[name];
    unit = LENGTHS[name];
  }
  const wall = new Date(zone.toWall(from));
  const day = wall.getUTCDate();
  wall.setUTCDate(1);
  wall.setUTCMonth(wall.getUTCMonth() - 12 * back.year - back.month);
  const last = new Date(Date.UTC(wall.getUTCFullYear(), wall.getUTCMonth() + 1, 0)).getUTCDate();
  wall.setUTCDate(Math.min(day, last) - back.day);
  const isSameWall = back.year + back.month + back.day === 0;
  return { at: (isSameWall ? from : zone.toInstant(wall.getTime())) - exact, unit };
}
