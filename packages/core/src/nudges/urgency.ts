/** Which of the nudges that wait to show first: the one whose facts pass soonest, then the longest spell. */
import type { Instant } from '../time/instant.ts';

export interface Waiting {
  /** When what was found passes by itself; null where nothing is known to end it. */
  readonly passesAt: Instant | null;
  readonly spellStart: Instant;
}

export const byUrgency = (a: Waiting, b: Waiting): number =>
  (a.passesAt ?? Infinity) - (b.passesAt ?? Infinity) || a.spellStart - b.spellStart || 0;
