/**
 * The threshold that tells best who is worried about from who is well, and whom it finds (engine S3, S4). J is Youden's index: the share
 * found of the worried less that of the well. Source: W. J. Youden, Cancer 3 (1950), 32–35. It is compared as whole numbers.
 */
import { FOLDS, type Population } from './population.ts';
import type { Worry } from './candidates.ts';

/** Of how many of each kind something was counted. */
export interface Kinds {
  readonly worried: number;
  readonly well: number;
}

/** J times |W|·|V|, for counts of found over one set: whole, so that ties are ties. */
export const jOf = (found: Kinds, of: Kinds): number => found.worried * of.well - found.well * of.worried;

/** Whose value is known, the most worrying first. NaN is unknown. */
export function worstFirst(values: Float64Array, worry: Worry): Uint32Array {
  const known: number[] = [];
  for (let i = 0; i < values.length; i++) if (!Number.isNaN(values[i]!)) known.push(i);
  const sign = worry === '<=' ? 1 : -1;
  return Uint32Array.from(known).sort((a, b) => sign * (values[a]! - values[b]!) || a - b);
}

/** The best threshold over those who are not in the fold `without`; null where there is none. */
export function thresholdOver(
  { members }: Population,
  values: Float64Array,
  order: Uint32Array,
  without: number | null = null,
): number | null {
  const isIn = (i: number) => members[i]!.fold !== without;
  const of = { worried: 0, well: 0 };
  for (const m of members) if (m.fold !== without) of[m.worried ? 'worried' : 'well']++;
  if (of.worried === 0 || of.well === 0) return null;
  const found = { worried: 0, well: 0 };
  let best: { readonly j: number; readonly value: number } | null = null;
  for (let k = 0; k < order.length;) {
    const value = values[order[k]!]!;
    let any = false;
    for (; k < order.length && values[order[k]!] === value; k++) {
      const i = order[k]!;
      if (!isIn(i)) continue;
      any = true;
      found[members[i]!.worried ? 'worried' : 'well']++;
    }
    if (!any) continue;
    const j = jOf(found, of);
    // Later ones find more: of equals the first stays.
    if (best === null || j > best.j) best = { j, value };
  }
  return best?.value ?? null;
}

const finds = (value: number, worry: Worry, threshold: number): boolean =>
  worry === 'undone' ? value === 0 : worry === '>=' ? value >= threshold : value <= threshold;

/** Whom a threshold finds: 1 for found; the unknown never is. */
export function foundBy(values: Float64Array, worry: Worry, threshold: number): Uint8Array {
  const found = new Uint8Array(values.length);
  for (let i = 0; i < values.length; i++) if (finds(values[i]!, worry, threshold)) found[i] = 1;
  return found;
}

/** Whom it finds honestly: each fifth by the threshold that the other four taught. */
export function honestlyFound(
  population: Population,
  values: Float64Array,
  order: Uint32Array,
  worry: Worry,
): Uint8Array {
  const found = new Uint8Array(values.length);
  for (let fold = 0; fold < FOLDS; fold++) {
    const threshold = thresholdOver(population, values, order, fold);
    if (threshold === null) continue;
    for (let i = 0; i < values.length; i++)
      if (population.members[i]!.fold === fold && finds(values[i]!, worry, threshold)) found[i] = 1;
  }
  return found;
}
