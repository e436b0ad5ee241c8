/** Two signs together, where that is better than either (engine S6). */
import { makeGroup, type Condition } from '../../conditions/condition.ts';
import type { Population } from './population.ts';
import { countsOf, jIn, type FoundSign, type SignCounts } from './found.ts';

export interface SignPair {
  readonly condition: Condition;
  readonly counts: SignCounts;
  readonly honest: SignCounts;
}

/** Signs that are tried in pairs. */
const TRIED = 12;
/** A pair is worth its second condition where its J is so much greater: one in twenty. */
const BETTER = 20;

/** The best first; equals by their first sign, then their second, both before either. */
export function pairsOf(signs: readonly FoundSign[], population: Population): SignPair[] {
  const pairs: { readonly pair: SignPair; readonly j: number }[] = [];
  const tried = signs.slice(0, TRIED);
  for (const [n, a] of tried.entries())
    for (const b of tried.slice(n + 1))
      for (const kind of ['all', 'any'] as const) {
        const join = (x: Uint8Array, y: Uint8Array) =>
          x.map((found, i) => (kind === 'all' ? found & y[i]! : found | y[i]!));
        const honest = join(a.honestlyFound, b.honestlyFound);
        const j = jIn(population, honest);
        if (BETTER * (j - Math.max(a.j, b.j)) < population.worried * population.well) continue;
        pairs.push({
          j,
          pair: {
            condition: makeGroup(kind, [a.condition, b.condition]),
            counts: countsOf(population, join(a.found, b.found)),
            honest: countsOf(population, honest),
          },
        });
      }
  return pairs.sort((a, b) => b.j - a.j).map((p) => p.pair);
}
