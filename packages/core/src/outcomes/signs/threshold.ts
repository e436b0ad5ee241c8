/**
 * The threshold that tells best who is worried about from who is well, and whom it finds (engine S3, S4). J is Youden's index: the share
 * found of the worried less that of the well. Source: W. J. Youden, Cancer 3 (1950), 32–35. It is compared as whole numbers.
 */
import { FOLDS, type Population } from './population.ts';
import type { WorryDirection } from './candidates.ts';

/** Of how many of each kind something was counted. */
export interface Kinds {
  readonly worried: number;
  readonly well: number;
}

/** J times |W|·|V|, for counts of found over one set: whole, so that ties are ties. */
export const jOf = (found: Kinds, of: Kinds): number => found.worried * of.well - found.well * of.worried;

/** What everybody teaches, and what each four fifths do; null where there is nothing to learn. */
export interface LearnedThresholds {
  /** Of how many a value is known. */
  readonly known: number;
  readonly all: number | null;
  /** By the fifth that is left out. */
  readonly without: readonly (number | null)[];
}

/** How many of a value are in each fifth, the worried and the well; and the same of everybody in the last place. */
const KINDS = 2 * (FOLDS + 1);
const ALL = FOLDS;

function count(into: Int32Array, at: number, fold: number, isWell: number): void {
  into[at + 2 * fold + isWell]!++;
  into[at + 2 * ALL + isWell]!++;
}

/** The best thresholds over everybody and over each four fifths, in one walk from the most worrying value on (engine S3, S4). */
export function thresholdsOf(
  { kinds, folds }: Population,
  values: Float64Array,
  worry: WorryDirection,
): LearnedThresholds {
  const places = new Map<number, number>();
  const distinct: number[] = [];
  const counts = new Int32Array(KINDS * values.length);
  const totals = new Int32Array(KINDS);
  let known = 0;
  for (let i = 0; i < values.length; i++) {
    const isWell = 1 - kinds[i]!;
    count(totals, 0, folds[i]!, isWell);
    const value = values[i]!;
    if (Number.isNaN(value)) continue;
    known++;
    let place = places.get(value);
    if (place === undefined) {
      places.set(value, (place = distinct.length));
      distinct.push(value);
    }
    count(counts, KINDS * place, folds[i]!, isWell);
  }
  const ordered = Float64Array.from(distinct).sort();
  if (worry !== '<=') ordered.reverse();
  const sofar = new Int32Array(KINDS);
  const best = new Array<number | null>(FOLDS + 1).fill(null);
  const js = new Float64Array(FOLDS + 1).fill(-Infinity);
  const setOf = (of: Int32Array, at: number, set: number, kind: number) =>
    of[at + 2 * ALL + kind]! - (set === ALL ? 0 : of[at + 2 * set + kind]!);
  for (const value of ordered) {
    const at = KINDS * places.get(value)!;
    for (let k = 0; k < KINDS; k++) sofar[k]! += counts[at + k]!;
    for (let set = 0; set <= FOLDS; set++) {
      const [worried, well] = [setOf(totals, 0, set, 0), setOf(totals, 0, set, 1)];
      // A value that no member of the set has is skipped.
      if (worried === 0 || well === 0 || setOf(counts, at, set, 0) + setOf(counts, at, set, 1) === 0) continue;
      const j = setOf(sofar, 0, set, 0) * well - setOf(sofar, 0, set, 1) * worried;
      // Later ones find more: of equals the first stays.
      if (j <= js[set]!) continue;
      js[set] = j;
      best[set] = value;
    }
  }
  return { known, all: best[ALL]!, without: best.slice(0, FOLDS) };
}

const finds = (value: number, worry: WorryDirection, threshold: number): boolean =>
  worry === 'undone' ? value === 0 : worry === '>=' ? value >= threshold : value <= threshold;

/** Whom a threshold finds: 1 for found; the unknown never is. */
export function foundBy(values: Float64Array, worry: WorryDirection, threshold: number): Uint8Array {
  const found = new Uint8Array(values.length);
  for (let i = 0; i < values.length; i++) if (finds(values[i]!, worry, threshold)) found[i] = 1;
  return found;
}

/** Whom it finds honestly: each fifth by the threshold that the other four taught. */
export function honestlyFound(
  { folds }: Population,
  values: Float64Array,
  { without }: LearnedThresholds,
  worry: WorryDirection,
): Uint8Array {
  const found = new Uint8Array(values.length);
  for (let i = 0; i < values.length; i++) {
    const threshold = without[folds[i]!]!;
    if (threshold !== null && finds(values[i]!, worry, threshold)) found[i] = 1;
  }
  return found;
}
