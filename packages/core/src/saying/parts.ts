/** The parts of a rule that come in any order, but for its condition: whom, when, how often, who else, how much it matters. */
import { audience, limit, spellsFrom, steps, told, weight } from './limits.ts';
import { best, either, type NameRead, type Parser, type Reading, type Source } from './parsers.ts';
import { onOneDate, recurrence, run, timeOfDay } from './rhythm.ts';
import type { SaidRule } from './saidRule.ts';

/** A part that was read, by the pieces of the text that say it. */
export interface Piece<T = unknown> {
  readonly kind: 'audience' | 'recurrence' | 'time' | 'run' | 'limit' | 'told' | 'weight' | 'spellsFrom' | 'steps';
  readonly from: number;
  readonly to: number;
  readonly values: readonly T[];
  readonly names: readonly (readonly NameRead[])[];
}

const PARTS: readonly (readonly [Piece['kind'], Parser<unknown>])[] = [
  ['audience', audience],
  ['recurrence', either(recurrence, onOneDate)],
  ['time', timeOfDay],
  ['run', run],
  ['limit', limit],
  ['told', told],
  ['weight', weight],
  ['spellsFrom', spellsFrom],
  ['steps', steps],
];

/** What of a rule each part says. */
export const ABOUT: Readonly<Record<Piece['kind'], keyof SaidRule>> = {
  audience: 'audience',
  recurrence: 'rhythm',
  time: 'rhythm',
  run: 'rhythm',
  limit: 'repeat',
  told: 'steps',
  weight: 'weight',
  spellsFrom: 'spellsFrom',
  steps: 'steps',
};

/** The longest part that begins here, with each way to read it; of two as long, the first in the list. Null for none. */
export function partAt(source: Source, at: number, only?: readonly (keyof SaidRule)[]): Piece | null {
  const all = PARTS.flatMap(([kind, parser]) => {
    if (only && !only.includes(ABOUT[kind])) return [];
    const found: readonly Reading<unknown>[] = best(parser(source, at));
    if (found.length === 0) return [];
    const piece: Piece = {
      kind,
      from: at,
      to: found[0]!.end,
      values: found.map((r) => r.value),
      names: found.map((r) => r.names),
    };
    return [piece];
  });
  const end = Math.max(...all.map((p) => p.to));
  return all.find((p) => p.to === end) ?? null;
}
