/** A share in words, with its counts and, where it matters, the range in which the true share may be. */
import { numberWords } from '../time/words.ts';
import type { Proportion } from './proportion.ts';

/** Below this many, a share says how far chance alone may move it. */
const FEW = 100;

/** Whole percents; a share that is neither none nor all is never written as 0% or 100%. */
function wholePercent(share: number): string {
  const percent = Math.round(100 * share);
  if (share > 0 && share < 1) return `${Math.min(99, Math.max(1, percent))}%`;
  return `${percent}%`;
}

/** "55% (6 of 11)". Throws `RangeError` when nothing was counted. */
export const shareWords = (share: Proportion): string => `${percentOf(share)} (${countWords(share)})`;

/**
 * "55% (6 of 11; with so few students, it could be 28% to 79%)"; the bounds are those of the Wilson interval at 95%. `counted` names
 * what was counted.
 */
export function rangedShareWords(share: Proportion, counted: 'students' | 'nudges' = 'students'): string {
  const range = `it could be ${rangeWords(share)}`;
  return `${percentOf(share)} (${countWords(share)}; ${share.of < FEW ? `with so few ${counted}, ${range}` : range})`;
}

/** "28% to 79%" */
export const rangeWords = ({ low, high }: Pick<Proportion, 'low' | 'high'>): string =>
  `${wholePercent(low)} to ${wholePercent(high)}`;

const countWords = ({ count, of }: Proportion): string => `${numberWords(count)} of ${numberWords(of)}`;

function percentOf({ count, of }: Proportion): string {
  if (of === 0) throw new RangeError('A share of nothing has no percent');
  return wholePercent(count / of);
}
