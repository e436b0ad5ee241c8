/** How a count of the last n days differs from that of the n days before (engine M3, M5). */
import type { CourseCalendar } from '../../time/calendar.ts';
import type { Instant } from '../../time/instant.ts';
import { numberFrom, wholeFrom, type Range } from '../../problem/range.ts';
import { numberIn } from '../../problem/rangeSchema.ts';
import { plural } from '../../time/words.ts';
import {
  belowZero,
  comparisonWords,
  counted,
  type Clause,
  type ClauseTest,
  type MeasureCall,
  type Subject,
} from '../values/measure.ts';
import type { Fact } from '../values/fact.ts';
import { NumbersBuilder } from '../values/numbersBuilder.ts';
import type { Numbers } from '../values/timeline.ts';

/** How many days are held against as many before them. */
const CHANGE_DAYS_RANGE: Range = wholeFrom(1, 60);

/** What both changes take beside their own parameters, and what they are compared with. */
export const changeParameters = { days: numberIn(CHANGE_DAYS_RANGE) };
export const changeRanges = { days: CHANGE_DAYS_RANGE };
export const CHANGE_RANGE: Range = numberFrom(-1_000_000, 1_000_000);

/** What happened in the last `days` minus what happened in the days before, from twice that long into the story on; until then unknown. */
export function changeSteps(
  instants: readonly Instant[],
  { days = 0 }: MeasureCall,
  { story, course }: Subject,
): Numbers {
  const { calendar } = course;
  const known = calendar.addDays(story, 2 * days);
  const turns = instants.flatMap((at) => [
    { at, by: 1 },
    { at: calendar.addDays(at, days), by: -2 },
    { at: calendar.addDays(at, 2 * days), by: 1 },
  ]);
  const steps = new NumbersBuilder().set(story, null);
  let change = 0;
  for (const turn of turns.sort((a, b) => a.at - b.at)) {
    if (turn.at > known) steps.set(known, change);
    change += turn.by;
    if (turn.at >= known) steps.set(turn.at, change);
  }
  return (turns.length === 0 || turns.at(-1)!.at < known ? steps.set(known, change) : steps).build();
}

/** Both counts at t. */
export function changeFact(
  what: 'visit' | 'post',
  instants: readonly Instant[],
  days: number,
  t: Instant,
  calendar: CourseCalendar,
): Fact {
  const isWithin = (at: Instant, n: number) => t < calendar.addDays(at, n);
  const seen = instants.filter((at) => at <= t);
  return {
    kind: 'counts',
    what,
    days,
    now: seen.filter((at) => isWithin(at, days)).length,
    before: seen.filter((at) => !isWithin(at, days) && isWithin(at, 2 * days)).length,
  };
}

/** "at least 3 fewer visits in the last 14 days than before" */
export function changeClause(test: ClauseTest, { days = 0 }: MeasureCall, what: string, where: string): Clause {
  const span = `in the last ${plural(days, 'day')}`;
  if (test.raw === 0 && (test.is === '<' || test.is === '>')) {
    return { lead: 'have', marked: `${test.is === '<' ? 'fewer' : 'more'} ${what}s${where} ${span} than before` };
  }
  const fall = belowZero(test);
  if (!fall) {
    const value = counted(test, what);
    return { lead: 'have', marked: `a change of ${comparisonWords({ ...test, value })}${where} ${span}` };
  }
  const size = counted(fall, `fewer ${what}`);
  return { lead: 'have', marked: `${fall.is === '>=' ? 'at least' : 'over'} ${size}${where} ${span} than before` };
}

/** "3 fewer visits than in the 14 days before" */
export const changeValueWords = (value: number, { days = 0 }: MeasureCall, what: string): string =>
  value === 0
    ? `as many ${what}s as in the ${plural(days, 'day')} before`
    : `${plural(Math.abs(value), `${value < 0 ? 'fewer' : 'more'} ${what}`)} than in the ${plural(days, 'day')} before`;

/** What is said of a change. `where` has the slots that name the items. */
export const changePhrases = (what: string, where: string) => [
  { say: `{n:fewer ${what}|${what}s}${where} in last {days} than before`, isBelow: true } as const,
  `change of {n:${what}|${what}s}${where} in last {days}`,
  { say: `no known change in ${what}s${where} in last {days}`, is: 'empty' } as const,
  { say: `known change in ${what}s${where} in last {days}`, is: 'filled' } as const,
  { say: `fewer ${what}s${where} in last {days} than before`, is: '<', value: 0 } as const,
  { say: `more ${what}s${where} in last {days} than before`, is: '>', value: 0 } as const,
  { say: `fewer ${what}s${where} than {days} ago|before`, is: '<', value: 0 } as const,
];
