/** Two terms side by side, as the screen is told. */
import type { TermsCompared } from '../terms/compare.ts';
import type { Instant } from '../time/instant.ts';

/** A course that another can be compared with. */
export interface OtherTerm {
  readonly id: number;
  readonly code: string;
  readonly title: string;
  readonly start: string;
  readonly end: string;
  /** One was carried over into the other. */
  readonly isCarried: boolean;
}

export interface ComparedTerm extends Omit<OtherTerm, 'isCarried'> {
  readonly at: Instant;
  readonly students: number;
  /** Students with a known outcome, and those who have the one that is worried about. */
  readonly known: number;
  readonly worried: number;
  readonly missedByAll: number;
  /** The outcome, in words. */
  readonly outcome: string;
}

export interface TermsAnswer extends TermsCompared {
  readonly here: ComparedTerm;
  readonly other: ComparedTerm;
  /** The other course has nothing like the outcome that was asked for: its own stands in. */
  readonly ownOutcome: boolean;
}
