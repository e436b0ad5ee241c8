/** Which single condition, read early, tells those whom one worries about later: signs, the best first (engine S1 to S7). */
import type { Leaf } from '../../conditions/condition.ts';
import type { Course } from '../../course/course.ts';
import { within, type WorkInParts } from '../../time/inParts.ts';
import type { Instant } from '../../time/instant.ts';
import { candidatesOf, conditionOf, type Candidate } from './candidates.ts';
import { countsOf, jIn, type FoundSign, type Sign } from './found.ts';
import { pairsOf, type SignPair } from './pairs.ts';
import { FEWEST, populationOf, type SignsOf } from './population.ts';
import { foundBy, honestlyFound, thresholdsOf } from './threshold.ts';
import { valuesInParts } from './values.ts';

export interface Signs {
  readonly worried: number;
  readonly well: number;
  /** With fewer than five of either there are no signs. */
  readonly tooFew: boolean;
  readonly signs: readonly Sign[];
  readonly pairs: readonly SignPair[];
  /** How well the best told, week by week: J at each whole week, by the threshold of `by`. */
  readonly weekly: readonly (readonly number[])[];
}

/** How many of the best are told week by week. */
const BEST = 5;

/** `courses`: the one that it is about, then those counted together with it. */
export function* signsInParts(courses: readonly SignsOf[]): WorkInParts<Signs> {
  const [first] = courses;
  const population = populationOf(courses);
  const { worried, well } = population;
  const none = { worried, well, signs: [], pairs: [], weekly: [] };
  if (!first || worried < FEWEST || well < FEWEST) return { ...none, tooFew: true };
  const candidates = candidatesOf(first.facts.course, first.by);
  const calls = candidates.map((c) => c.call);
  const read = yield* within(
    valuesInParts(courses, population, calls, (c) => [c.by]),
    0,
    0.6,
  );
  const told: { readonly candidate: Candidate; readonly threshold: number; readonly sign: FoundSign }[] = [];
  for (const [n, candidate] of candidates.entries()) {
    yield;
    const values = read[n]![0]!;
    const learned = thresholdsOf(population, values, candidate.worry);
    if (candidate.halfKnown && 2 * learned.known < values.length) continue;
    const threshold = candidate.worry === 'undone' ? 0 : learned.all;
    if (threshold === null) continue;
    const honest = honestlyFound(population, values, learned, candidate.worry);
    const j = jIn(population, honest);
    if (j <= 0) continue;
    const found = foundBy(values, candidate.worry, threshold);
    const sign: FoundSign = {
      condition: conditionOf(candidate, threshold),
      counts: countsOf(population, found),
      alike: [],
      honest: countsOf(population, honest),
      firstWeek: null,
      found,
      honestlyFound: honest,
      j,
    };
    told.push({ candidate, threshold, sign });
  }
  // Equals stay in the order of the candidates.
  told.sort((a, b) => b.sign.j - a.sign.j);
  const byFound = new Map<string, { of: (typeof told)[number]; alike: Leaf[] }>();
  for (const one of told) {
    const key = one.sign.found.join('');
    const known = byFound.get(key);
    if (known) known.alike.push(one.sign.condition);
    else byFound.set(key, { of: one, alike: [] });
  }
  const listed = [...byFound.values()];
  const weeks = wholeWeeks(first.facts.course, first.by);
  const byWeek = yield* within(
    valuesInParts(
      courses,
      population,
      listed.map(({ of }) => of.candidate.call),
      ({ facts }) => weeks.map((week) => weekOf(facts.course, week)),
    ),
    0.7,
    1,
  );
  const weekly: number[][] = [];
  const signs = listed.map(({ of: { candidate, threshold, sign }, alike }, n): FoundSign => {
    const js = byWeek[n]!.map((values) => jIn(population, foundBy(values, candidate.worry, threshold)));
    const own = jIn(population, sign.found);
    // Four fifths of it at least, in whole numbers.
    const early = weeks.find((_, w) => 5 * js[w]! >= 4 * own);
    if (n < BEST) weekly.push(js.map((j) => j / (worried * well)));
    return { ...sign, alike, firstWeek: early ?? null };
  });
  const pairs = pairsOf(signs, population);
  return { worried, well, tooFew: false, signs: signs.map(withoutFound), pairs, weekly };
}

const withoutFound = ({ condition, counts, honest, firstWeek, alike }: FoundSign): Sign => ({
  condition,
  counts,
  honest,
  firstWeek,
  alike,
});

/** The instant at which a whole week of a course is read (engine S7). */
export const weekOf = ({ calendar }: Course, week: number): Instant => calendar.addDays(calendar.start, 7 * week);

/** The whole weeks of a course up to and including an instant. */
export function wholeWeeks(course: Course, by: Instant): number[] {
  const weeks: number[] = [];
  for (let w = 1; weekOf(course, w) <= by; w++) weeks.push(w);
  return weeks;
}
