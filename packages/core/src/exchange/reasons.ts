/** Why people changed what runs, in their own words. */
import type { Instant } from '../time/instant.ts';

export const REASON_KINDS = ['rule', 'wording', 'limits'] as const;
export type ReasonKind = (typeof REASON_KINDS)[number];

/** The longest that anybody can say why, in characters. */
export const LONGEST_REASON = 200;

export interface ReasonLine {
  readonly id: number;
  readonly at: Instant;
  readonly by: string;
  readonly what: ReasonKind;
  /** The key of the rule or the wording; empty for the limits. */
  readonly of: string;
  /** What it is called today; empty for the limits. */
  readonly name: string;
  readonly words: string;
}

/** “the rule ‘Quiet week’” */
export const reasonAbout = ({ what, name }: Pick<ReasonLine, 'what' | 'name'>): string =>
  what === 'limits' ? 'the limits' : `the ${what} “${name}”`;
