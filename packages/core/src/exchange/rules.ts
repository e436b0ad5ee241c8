/** What is said about rules: as the list shows them, their rounds, their versions, and what they would send. Instants are epoch ms. */
import type { LeafEvidence } from '../conditions/evidence.ts';
import type { MessageState } from '../nudges/message.ts';
import type { Explained } from '../rounds/decide/decision.ts';
import type { WithheldReason } from '../rounds/decide/withheld.ts';
import type { Recipient } from '../rounds/decide/recipients.ts';
import type { TakenBy } from '../rounds/whatIf/reach.ts';
import type { Rule, RuleStatus } from '../rules/rule.ts';
import type { Instant } from '../time/instant.ts';
import type { Message } from '../wording/render.ts';
import type { LoggedReason } from './logged.ts';
import type { SendingAnswer } from './sendings.ts';

/** What one rule's part of a round came to. */
export interface RoundSummary {
  readonly at: Instant;
  readonly trigger: RoundTrigger;
  readonly version: number;
  readonly matched: number;
  readonly heard: number;
  readonly held: number;
  readonly withheld: number;
  readonly withdrawn: number;
  /** Rounds that fell while the machine was off and were made up for by this one. */
  readonly missed: readonly Instant[];
}
export const ROUND_TRIGGERS = ['regular', 'ring', 'late'] as const;
export type RoundTrigger = (typeof ROUND_TRIGGERS)[number];

export interface RuleCard {
  readonly rule: Rule;
  readonly version: number;
  readonly sentence: string;
  readonly nextRoundAt: Instant | null;
  /** Why it cannot run, as the end of “cannot run: …”; null where it can. */
  readonly cannotRun: string | null;
  /** Whether it is or was on: what never was is off, and not paused. */
  readonly wasOn: boolean;
  readonly lastRound: RoundSummary | null;
  /** Nudges to students that were sent, and alerts about students to others alone. */
  readonly sentInAll: number;
  readonly alertsInAll: number;
  /** When it was put away; null for a rule of the list. */
  readonly archivedAt: Instant | null;
  /** The person named in its messages; null for the course’s own sender. */
  readonly writesAs: { readonly name: string; readonly isYou: boolean } | null;
  /** Addresses outside the institution that got a yes. */
  readonly outside: readonly string[];
  /** What somebody drafted beside a rule that is on, and nobody has published yet. */
  readonly drafted: { readonly rule: Rule; readonly by: string; readonly at: Instant } | null;
}

/** A rule as it stood at one version. */
export interface RuleVersionAnswer {
  readonly version: number;
  readonly savedAt: Instant;
  /** Null for what the course began with. */
  readonly by: string | null;
  readonly rule: Rule;
  /** The code of the course that it was carried over from; of the first version alone. */
  readonly carriedFrom: string | null;
  /** Why it was changed, as who did it says; null where they did not. */
  readonly why: string | null;
}

/** One past round of a rule with everyone it decided about. */
export interface PastRoundAnswer {
  readonly id: number;
  readonly round: RoundSummary;
  readonly nudges: readonly {
    readonly nudge: number;
    readonly student: string;
    readonly state: MessageState;
    readonly reason: LoggedReason | null;
    readonly step: number;
    readonly evidence: readonly LeafEvidence[];
  }[];
  readonly withheld: readonly {
    readonly student: string;
    readonly reason: WithheldReason;
    readonly step: number;
    readonly evidence: readonly LeafEvidence[];
    /** How many rounds of the spell it was refused in. */
    readonly rounds: number;
  }[];
}
export interface PastRoundLine extends RoundSummary {
  readonly id: number;
}

/** A starter as it would be for this course now. */
export interface StarterAnswer {
  readonly id: string;
  readonly sentence: string | null;
  /** How many meet its condition now. */
  readonly matching: number;
  /** What the course lacks for it. */
  readonly needs: string | null;
  /** What it asks for that has never come in, as sentences. */
  readonly unheard: readonly string[];
}

export interface RuleChange {
  readonly rule: RuleCard;
  /** The status before, for undo. */
  readonly before: RuleStatus;
}

export interface RenderedNudge {
  readonly decision: Explained;
  /** One message to each it writes to, in the step's order, as each would read it; of what limits hold back too. */
  readonly messages: readonly RenderedMessage[];
  /** What used up the message budget, where that is what holds it back. */
  readonly taken: TakenBy | null;
}

export interface RenderedMessage {
  readonly to: Recipient;
  readonly message: Message;
  /** Names of its attachments. */
  readonly files: readonly string[];
  /** Which of the wording's texts; null where it has one. */
  readonly text: number | null;
  /** About how many students it is, where a step tells of all in one message; else null. */
  readonly together: number | null;
}

export interface RehearsalAnswer {
  readonly at: Instant;
  /** Whom its messages come from. */
  readonly from: { readonly name: string; readonly address: string };
  readonly matching: number;
  /** What its conditions ask for that has never come in, as sentences. */
  readonly unheard: readonly string[];
  readonly nudges: readonly RenderedNudge[];
}

/** What a rule alone would have done from its first day until now. */
export interface PastAnswer {
  readonly from: Instant;
  readonly rounds: number;
  readonly nudges: number;
  readonly students: number;
  /** The most on one day. */
  readonly busiest: number;
}

export interface RingAnswer {
  readonly round: RoundSummary;
  /** While its messages can be taken back; null where they left at once, or there were none. */
  readonly sending: SendingAnswer | null;
}
