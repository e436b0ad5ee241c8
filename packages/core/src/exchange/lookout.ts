/** What Lookout says to the browser, beside the columns of measures. Instants are epoch ms. */
import type { LookoutView } from '../lookout/view.ts';
import type { StudentLog } from '../lookout/logFacts.ts';
import type { RuleMatches } from '../lookout/ruleMatches.ts';
import type { Instant } from '../time/instant.ts';

/** What the log knows of each student as of an instant; anyone who is not in it was never nudged. */
export interface LookoutLogAnswer {
  readonly at: Instant;
  readonly students: Readonly<Record<string, StudentLog>>;
}

/** Who matches each of the rules that were asked about, as of an instant; a rule that is gone is not in it. */
export interface LookoutRulesAnswer {
  readonly at: Instant;
  readonly rules: Readonly<Record<string, RuleMatches>>;
}

export interface SavedView {
  readonly id: number;
  readonly name: string;
  readonly by: string;
  readonly at: Instant;
  /** Null when it can no longer be read. */
  readonly view: LookoutView | null;
}

/** What the signed-in person keeps about students; nobody else sees it. */
export interface OwnRemarks {
  readonly pins: readonly string[];
  /** How many notes there are of each student. */
  readonly notes: Readonly<Record<string, number>>;
  /** Students set aside until a day. */
  readonly aside: Readonly<Record<string, Instant>>;
}

export interface NoteLine {
  readonly id: number;
  readonly at: Instant;
  readonly text: string;
}

/** How often somebody gets a mail about their courses. */
export const DIGESTS = ['off', 'daily', 'weekly'] as const;
export type Digest = (typeof DIGESTS)[number];
