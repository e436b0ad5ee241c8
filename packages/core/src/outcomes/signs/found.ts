/** A sign with whom it finds, and what that comes to. */
import type { Leaf } from '../../conditions/condition.ts';
import type { HindsightCell } from '../hindsight.ts';
import type { Population } from './population.ts';
import { jOf } from './threshold.ts';

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

/** A sign with whom it finds. */
export interface FoundSign extends Sign {
  readonly found: Uint8Array;
  readonly honestlyFound: Uint8Array;
  /** J of the honest counts, times |W|·|V|. */
  readonly j: number;
}

/** J (Youden) of a finding over a population, times |W|·|V|. */
export function jIn(population: Population, found: Uint8Array): number {
  const { kinds } = population;
  let worried = 0;
  let well = 0;
  for (let i = 0; i < found.length; i++)
    if (found[i]) {
      if (kinds[i]) worried++;
      else well++;
    }
  return jOf({ worried, well }, population);
}

export function countsOf({ kinds, worried, well }: Population, found: Uint8Array): SignCounts {
  const counts = { found: 0, needless: 0 };
  for (let i = 0; i < found.length; i++) if (found[i]) counts[kinds[i] ? 'found' : 'needless']++;
  return {
    found: counts.found,
    missed: worried - counts.found,
    needless: counts.needless,
    leftAlone: well - counts.needless,
  };
}
