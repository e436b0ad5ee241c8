/** What is said of a fair trial of a wording's texts. Instants are epoch ms. */
import type { TrialResult, TRIAL_POINTS, TRIAL_STANDINGS } from '../outcomes/fairTrial.ts';
import type { Instant } from '../time/instant.ts';
import type { Variant } from '../wording/wording.ts';

export interface TrialView extends TrialResult {
  readonly id: number;
  readonly startedAt: Instant;
  readonly startedBy: string;
  readonly endedAt: Instant | null;
  /** The texts that are compared, as they stood. */
  readonly compared: readonly Variant[];
  readonly courses: readonly string[];
  readonly points: (typeof TRIAL_POINTS)[number];
  /** Students that each text needs to show a difference of so many points. */
  readonly needed: number;
  readonly standing: (typeof TRIAL_STANDINGS)[number];
}

export interface NamedTrial {
  readonly wording: string;
  /** The wording's. */
  readonly name: string;
  readonly trial: TrialView;
}

export interface TrialPlan {
  /** Why none can be started now; null when it can. */
  readonly refused: string | null;
  /** The share that comes back today, 0 to 1, from which the numbers below are counted; half where too few are known. */
  readonly base: number;
  readonly baseKnown: boolean;
  readonly needed: readonly { readonly points: (typeof TRIAL_POINTS)[number]; readonly students: number }[];
  /** Different students who got it so far, in all courses below. */
  readonly reached: number;
  /** Courses of the account that have a wording with the same texts, this one first. */
  readonly courses: readonly { readonly id: number; readonly name: string; readonly reached: number }[];
}

export interface TrialAnswer {
  /** The one that runs, or the last one; null when there was none. */
  readonly trial: TrialView | null;
  readonly plan: TrialPlan;
}
