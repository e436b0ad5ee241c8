/** Which waiting nudge to show first: the one with facts that pass soonest, then the longest spell. */
import type { Instant } from '../time/instant.ts';

export interface WaitingTime {
  /** When what was found passes on its own; null where nothing is known to end it. */
  readonly passesAt: Instant | null;
  readonly spellStart: Instant;
}

export const byUrgency = (a: WaitingTime, b: WaitingTime): number =>
  (a.passesAt ?? Infinity) - (b.passesAt ?? Infinity) || a.spellStart - b.spellStart || 0;
