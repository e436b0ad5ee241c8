/** On which days a student comes to the course, given the letters that reached them. */
import { DAY, HOUR, type CourseCalendar, type Instant } from '@zest-bell/core/time';
import { TRAITS, type Habit } from './habits.ts';
import { between, chance } from './random.ts';

export interface Pupil {
  readonly id: string;
  readonly habit: Habit;
  readonly enrolledAt: Instant;
  /** Never comes at all. */
  readonly absent: boolean;
}

export interface Visit {
  readonly at: Instant;
  readonly id: string;
  /** A visit that a letter brought about: what is missing gets done in it. */
  readonly becauseOfLetter: boolean;
}

/** How long a letter's effect lasts on somebody who was drifting away. */
const EFFECT = 9 * DAY;

/** The weeks, counted from the course's start, in which a returning student stays away: two stretches of a term. */
function awayStretches(seed: string, pupil: Pupil): readonly (readonly [from: number, to: number])[] {
  const first = Math.floor(between(12, 26, seed, pupil.id, 'away'));
  const second = Math.floor(between(45, 54, seed, pupil.id, 'again'));
  return [first, second].map((from) => [from, from + Math.floor(between(7, 14, seed, pupil.id, from))] as const);
}

/** The visit that each letter brings about, if it does. */
export function answers(seed: string, pupil: Pupil, letters: readonly Instant[]): Visit[] {
  if (pupil.absent) return [];
  return letters.flatMap((at, n) => {
    if (chance(seed, pupil.id, 'letter', n) >= TRAITS[pupil.habit].answersALetter) return [];
    const after = between(1.5, 44, seed, pupil.id, 'delay', n) * HOUR;
    return [{ at: at + Math.round(after), id: `${pupil.id}-letter-${n}`, becauseOfLetter: true }];
  });
}

/** The visits that fall on one local day. */
export function visitsOn(
  seed: string,
  pupil: Pupil,
  calendar: CourseCalendar,
  dayNumber: number,
  letters: readonly Instant[],
): Visit[] {
  if (pupil.absent) return [];
  const traits = TRAITS[pupil.habit];
  const midnight = calendar.zone.toInstant(dayNumber * DAY);
  const day = dayNumber - calendar.dayNumber(calendar.start);
  let comes = traits.comes;
  if ((dayNumber + 3) % 7 >= 5) comes *= 0.6;
  if (calendar.isBreakDay(dayNumber)) comes *= 0.15;
  const brought = answers(seed, pupil, letters).some((v) => v.at <= midnight && midnight - v.at < EFFECT);
  if (!brought) {
    if (pupil.habit === 'fading') {
      const fadesAt = between(14, 50, seed, pupil.id, 'fades');
      if (day > fadesAt) comes *= Math.max(0, 1 - (day - fadesAt) / 9);
    }
    if (pupil.habit === 'returning' && awayStretches(seed, pupil).some(([a, b]) => day >= a && day < b)) comes = 0;
  }
  const out: Visit[] = [];
  if (chance(seed, pupil.id, 'comes', dayNumber) < comes) {
    const sittings = chance(seed, pupil.id, 'twice', dayNumber) < 0.35 ? 2 : 1;
    for (let n = 0; n < sittings; n++) {
      const hour = between(traits.hours[0], traits.hours[1], seed, pupil.id, 'hour', dayNumber, n);
      out.push({ at: midnight + Math.round(hour * HOUR), id: `${pupil.id}-${dayNumber}-${n}`, becauseOfLetter: false });
    }
  }
  return out.filter((v) => v.at >= pupil.enrolledAt);
}
