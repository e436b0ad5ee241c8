/** What the send log says to the browser. Instants are epoch ms. */
import type { TextResult } from '../outcomes/textResults.ts';
import type { LeafEvidence } from '../conditions/evidence.ts';
import type { HeldReason, MessageState } from '../nudges/message.ts';
import type { ReplyKind } from '../nudges/reply.ts';
import type { WithheldReason } from '../rounds/decide/withheld.ts';
import type { Recipient } from '../rounds/decide/recipients.ts';
import type { Instant } from '../time/instant.ts';
import type { LoggedReason } from './logged.ts';

/** A line of the send log. */
export interface LogLine {
  readonly nudge: number;
  readonly roundAt: Instant;
  readonly rule: string | null;
  readonly ruleName: string;
  readonly student: string;
  readonly studentName: string;
  readonly step: number;
  readonly state: MessageState;
  readonly reason: LoggedReason | null;
  readonly subject: string | null;
  readonly messages: number;
  readonly at: Instant;
  /** What came back that says most: an answer before a bounce before an automatic reply. */
  readonly answered: ReplyKind | null;
}

export interface LogAnswer {
  readonly lines: readonly LogLine[];
  readonly total: number;
  readonly counts: Readonly<Record<LogState | 'all', number>>;
}
/** What came of the nudges that reached their students: of all, and by rule. */
export interface OutcomesAnswer {
  readonly all: TextResult;
  readonly rules: Readonly<Record<string, TextResult>>;
}

export const LOG_STATES = ['sent', 'queued', 'held', 'uncertain', 'failed', 'withdrawn'] as const;
export type LogState = (typeof LOG_STATES)[number];

export const ATTEMPT_OUTCOMES = ['handing', 'sent', 'transient', 'permanent', 'unknown'] as const;
export type AttemptOutcome = (typeof ATTEMPT_OUTCOMES)[number];

export interface AttemptAnswer {
  readonly id: number;
  readonly at: Instant;
  readonly outcome: AttemptOutcome;
  readonly response: string;
  readonly messageId: string;
  /** The sender's name and address; the name is empty for messages from before it was stored. */
  readonly from: { readonly name: string; readonly address: string };
  readonly replyTo: string;
  readonly subject: string;
  readonly text: string;
  readonly html: string;
  readonly evidence: readonly LeafEvidence[];
  /** Names of its attachments. */
  readonly files: readonly string[];
}

export interface LogMessage extends Recipient {
  readonly id: number;
  readonly state: MessageState;
  readonly sendAt: Instant;
  readonly attempts: readonly AttemptAnswer[];
  /** Why it waits for the instructor; null while it does not. */
  readonly heldFor: HeldReason | null;
  /** Why it could not be made, and what to do; null while nothing is wrong. */
  readonly trouble: string | null;
}

export interface LogDetail extends LogLine {
  readonly spellStart: Instant;
  readonly ruleVersion: number;
  readonly evidence: readonly LeafEvidence[];
  /** Who dismissed it, and why; null where nobody did or no reason was kept. */
  readonly dismissed: { readonly by: string; readonly reason: string } | null;
  /** Who wrote it by hand; null for a rule’s. */
  readonly writtenBy: string | null;
  /** Facts that were taken back since, and that this nudge may have stood on. */
  readonly corrections: readonly {
    readonly what: string;
    readonly at: Instant;
    readonly by: string;
    readonly reason: string;
  }[];
  /** Limits that an instructor passed on purpose for this nudge; null where a round decided it. */
  readonly passed: { readonly limits: readonly WithheldReason[]; readonly by: string } | null;
  readonly to: readonly LogMessage[];
  readonly replies: readonly ReplyAnswer[];
}

/** How far a reply is on its way to the instructor; nobody holds or withdraws it. */
export type ForwardState = Exclude<MessageState, 'held' | 'withdrawn' | 'dismissed'>;

/** A mail that came back after a nudge. */
export interface ReplyAnswer {
  readonly id: number;
  readonly kind: ReplyKind;
  readonly at: Instant;
  readonly from: string;
  readonly subject: string;
  readonly text: string;
  /** Whether it was passed on to the instructor; null for what a machine wrote. */
  readonly forward: ForwardState | null;
}

/** Refusals of one limit in one spell. */
export interface WithheldLine {
  readonly rule: string;
  readonly ruleName: string;
  readonly student: string;
  readonly studentName: string;
  readonly reason: WithheldReason;
  readonly firstRound: Instant;
  readonly lastRound: Instant;
  readonly rounds: number;
  readonly evidence: readonly LeafEvidence[];
}
