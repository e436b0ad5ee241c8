/** What Replay says to the browser. Instants are epoch ms. */
import type { LeafEvidence } from '../conditions/evidence.ts';
import type { CameLine } from '../outcomes/cameOfIt.ts';
import type { Hindsight } from '../outcomes/hindsight.ts';
import type { ReplayResult } from '../outcomes/replayed.ts';
import type { Noise } from '../rounds/advice/noise.ts';
import type { ByGroup } from '../outcomes/byGroup.ts';
import type { Signs } from '../outcomes/signs/signs.ts';
import type { Instant } from '../time/instant.ts';
import type { WordingPurpose } from '../wording/wording.ts';

export interface ReplayAnswer extends ReplayResult {
  readonly until: Instant;
}

/** One value for a number of the rule, and how well the rule finds students at that value. */
export interface VariedHindsight extends Pick<Hindsight, 'counts' | 'shareFound' | 'shareRight'> {
  readonly value: number;
  /** Median days from find to outcome; null when nobody with the outcome is found. */
  readonly lead: number | null;
}

export interface HindsightAnswer {
  readonly hindsight: Hindsight;
  readonly varied: readonly VariedHindsight[];
  /** Where groups were asked for: the same within each. */
  readonly groups: ByGroup | null;
}

/** How many students of a group were sent something of each purpose; each counts once. */
export interface GroupMessages {
  /** Null for a blank, and for the smaller groups together. */
  readonly group: string | null;
  readonly isSmaller: boolean;
  readonly students: number;
  readonly got: Readonly<Record<WordingPurpose, number>>;
}

/** A course that contributes its students to the search for signs. */
export interface SignsWith {
  readonly course: number;
  /** Null where it has nothing like the outcome, or has not come so far. */
  readonly students: number | null;
}

export interface SignsAnswer extends Signs {
  readonly at: Instant;
  readonly by: Instant;
  readonly with: readonly SignsWith[];
}

/** What a threshold would have found some time ago of those whom one worries about now. */
export interface ThresholdHint {
  readonly by: Instant;
  readonly worried: number;
  readonly well: number;
  readonly values: readonly { readonly value: number; readonly found: number; readonly needless: number }[];
}

/** Why a rule looked at a student as it did at a round, as it is known today. */
export interface ReplayEvidence {
  readonly evidence: readonly LeafEvidence[];
  /** As the first text of its step would have read then; null where the wording is gone or cannot be read. */
  readonly message: { readonly subject: string; readonly text: string } | null;
}

/** What came of the nudges of a course, as its log says. */
export interface CameOfItAnswer {
  readonly asOf: Instant;
  readonly lines: readonly CameLine[];
  /** Names by key, of those that are gone as well. */
  readonly rules: Readonly<Record<string, string>>;
  readonly wordings: Readonly<Record<string, string>>;
}

/** The coming rounds, as they would go in one case. */
export interface AheadCase extends ReplayResult {
  /** Of the first seven days. */
  readonly noise: Noise;
}

/** What the coming rounds hold: if nobody does anything more, and if every student's last 14 days repeat. */
export interface ComingAnswer {
  readonly from: Instant;
  readonly until: Instant;
  readonly still: AheadCase;
  readonly repeated: AheadCase;
  readonly rules: readonly {
    readonly id: string;
    readonly name: string;
    readonly rounds: number;
    /** Nudges, sent or waiting, in either case. */
    readonly still: number;
    readonly repeated: number;
    /** It only tells others: its nudges are alerts about students. */
    readonly alerts: boolean;
  }[];
}
