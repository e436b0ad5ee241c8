/** What measures say of everybody in a population at some instants: read person by person, while what is known of one is at hand. */
import type { MeasureCall } from '../../measures/values/measure.ts';
import { valueAt } from '../../measures/values/timeline.ts';
import type { WorkInParts } from '../../time/inParts.ts';
import type { Instant } from '../../time/instant.ts';
import type { Population, SignsOf } from './population.ts';

/** People that a part of the reading looks at. */
const A_PART = 100;

/**
 * By measure, then by instant, then by the place in the population: NaN for unknown, 1 and 0 for yes and no. `at`: the instants of a
 * course, as many of each.
 */
export function* valuesInParts(
  courses: readonly SignsOf[],
  { courseOf, personOf }: Population,
  calls: readonly MeasureCall[],
  at: (of: SignsOf) => readonly Instant[],
): WorkInParts<Float64Array[][]> {
  const instants = courses.map(at);
  const lines = courses.map(({ facts, callHere }) =>
    calls.map((call) => {
      const own = callHere ? callHere(call) : call;
      return own === null ? null : facts.timelinesOf(own);
    }),
  );
  const read = calls.map(() => instants[0]!.map(() => new Float64Array(personOf.length).fill(NaN)));
  for (let i = 0; i < personOf.length; i++) {
    if (i % A_PART === A_PART - 1) yield i / personOf.length;
    const [person, times, own] = [personOf[i]!, instants[courseOf[i]!]!, lines[courseOf[i]!]!];
    for (let c = 0; c < own.length; c++) {
      const line = own[c]?.(person);
      if (line === undefined) continue;
      const into = read[c]!;
      for (let k = 0; k < times.length; k++) {
        const value = valueAt(line, times[k]!);
        if (typeof value === 'number') into[k]![i] = value;
        else if (typeof value === 'boolean') into[k]![i] = Number(value);
      }
    }
  }
  return read;
}
