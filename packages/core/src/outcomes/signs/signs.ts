/** Which single condition, read early, tells those whom one worries about later: signs, the best first (engine S1 to S7). */
import type { Leaf } from '../../conditions/condition.ts';
import type { Course } from '../../course/course.ts';
import { valueAt } from '../../measures/values/timeline.ts';
import type { MeasureCall } from '../../measures/values/measure.ts';
import type { InParts } from '../../time/inParts.ts';
import type { Instant } from '../../time/instant.ts';
import type { HindsightCell } from '../hindsight.ts';
import { candidatesOf, conditionOf, type Candidate } from './candidates.ts';
import { pairsOf, type SignPair } from './pairs.ts';
import { FEWEST, populationOf, type Population, type SignsOf } from './population.ts';
import { foundBy, honestlyFound, jOf, thresholdOver, worstFirst } from './threshold.ts';

export type SignCounts = Readonly<Record<HindsightCell, number>>;

export interface Sign {
  readonly condition: Leaf;
  /** By the threshold over everybody, who taught it as well. */
  readonly counts: SignCounts;
  /** Each judged by a threshold that others taught. */
  readonly honest: SignCounts;
  /** The first whole week in which it told four fifths as much; null for none. */
  readonly firstWeek: number | null;
  /** Signs that find exactly the same students. */
  readonly alike: readonly Leaf[];
}

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

/** A sign with whom it finds. */
export interface FoundSign extends Sign {
  readonly found: Uint8Array;
  readonly honestlyFound: Uint8Array;
  /** J of the honest counts, times |W|·|V|. */
  readonly j: number;
}

/** How many of the best are told week by week. */
export const BEST = 5;

/** `courses`: the one that it is about, then those that are counted with it. */
export function* signsInParts(courses: readonly SignsOf[]): InParts<Signs> {
  const [first] = courses;
  const population = populationOf(courses);
  const { worried, well } = population;
  const none = { worried, well, signs: [], pairs: [], weekly: [] };
  if (!first || worried < FEWEST || well < FEWEST) return { ...none, tooFew: true };
  const candidates = candidatesOf(first.facts.course, first.by);
  const reader = readerOf(courses, population);
  const told: { readonly candidate: Candidate; readonly threshold: number; readonly sign: FoundSign }[] = [];
  for (const [n, candidate] of candidates.entries()) {
    yield (0.8 * n) / candidates.length;
    const values = reader(candidate.call, (c) => c.by);
    const order = worstFirst(values, candidate.worry);
    if (candidate.halfKnown && 2 * order.length < values.length) continue;
    const threshold = candidate.worry === 'undone' ? 0 : thresholdOver(population, values, order);
    if (threshold === null) continue;
    const honest = honestlyFound(population, values, order, candidate.worry);
    const j = jIn(population, honest);
    if (j <= 0) continue;
    const found = foundBy(values, candidate.worry, threshold);
    const sign: FoundSign = {
      ...{ condition: conditionOf(candidate, threshold), counts: countsOf(population, found), alike: [] },
      ...{ honest: countsOf(population, honest), firstWeek: null, found, honestlyFound: honest, j },
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
  const weekly: number[][] = [];
  const signs: FoundSign[] = [];
  for (const [n, { of, alike }] of listed.entries()) {
    yield 0.8 + (0.2 * n) / listed.length;
    const at = (week: number) => jAt(of, reader, population, (c) => weekOf(c.facts.course, week));
    const own = jIn(population, of.sign.found);
    const js = n < BEST ? weeks.map(at) : null;
    // Four fifths of it at least, in whole numbers.
    const early = weeks.find((week, w) => 5 * (js ? js[w]! : at(week)) >= 4 * own);
    if (js) weekly.push(js.map((j) => j / (worried * well)));
    signs.push({ ...of.sign, alike, firstWeek: early ?? null });
  }
  const pairs = pairsOf(signs, population);
  return { worried, well, tooFew: false, signs: signs.map(withoutFound), pairs, weekly };
}

const withoutFound = ({ condition, counts, honest, firstWeek, alike }: FoundSign): Sign => ({
  ...{ condition, counts, honest, firstWeek, alike },
});

/** The instant at which a whole week of a course is read (engine S7). */
export const weekOf = ({ calendar }: Course, week: number): Instant => calendar.addDays(calendar.start, 7 * week);

/** The whole weeks of a course up to and including an instant. */
export function wholeWeeks(course: Course, by: Instant): number[] {
  const weeks: number[] = [];
  for (let w = 1; weekOf(course, w) <= by; w++) weeks.push(w);
  return weeks;
}

type Reader = (call: MeasureCall, at: (of: SignsOf) => Instant) => Float64Array;

/** Values of a measure of everybody, each at their course's own instant; NaN for unknown, 1 and 0 for yes and no. */
function readerOf(courses: readonly SignsOf[], { members }: Population): Reader {
  return (call, at) => {
    const lines = courses.map(({ facts, callHere }) => {
      const own = callHere ? callHere(call) : call;
      return own === null ? null : facts.timelinesOf(own);
    });
    const instants = courses.map(at);
    const values = new Float64Array(members.length);
    for (const [i, { course, person }] of members.entries()) {
      const line = lines[course]?.(person);
      const value = line ? valueAt(line, instants[course]!) : null;
      values[i] = value === null || typeof value === 'string' ? NaN : Number(value);
    }
    return values;
  };
}

function jAt(
  { candidate, threshold }: { readonly candidate: Candidate; readonly threshold: number },
  reader: Reader,
  population: Population,
  at: (of: SignsOf) => Instant,
): number {
  return jIn(population, foundBy(reader(candidate.call, at), candidate.worry, threshold));
}

/** J of whom something finds of a population, times |W|·|V|. */
export function jIn(population: Population, found: Uint8Array): number {
  const counts = countsOf(population, found);
  return jOf({ worried: counts.found, well: counts.needless }, population);
}

export function countsOf({ members }: Population, found: Uint8Array): SignCounts {
  const counts = { found: 0, missed: 0, needless: 0, leftAlone: 0 };
  for (const [i, { worried }] of members.entries())
    counts[worried ? (found[i] ? 'found' : 'missed') : found[i] ? 'needless' : 'leftAlone']++;
  return counts;
}
