/** What the Tray says to the browser: nudges that wait for a decision, each with its evidence and its message as it reads now. */
import type { SendingAnswer } from './sendings.ts';
import type { LeafEvidence } from '../conditions/evidence.ts';
import type { HeldReason } from '../nudges/message.ts';
import type { RecipientKind } from '../rounds/decide/recipients.ts';
import type { Instant } from '../time/instant.ts';
import type { Block } from '../wording/markup.ts';
import type { Variant } from '../wording/wording.ts';

export interface TrayLine {
  readonly nudge: number;
  readonly student: string;
  readonly name: string;
  readonly rule: string | null;
  readonly ruleName: string;
  readonly step: number;
  readonly roundAt: Instant;
  readonly spellStart: Instant;
  /** When what the rule found passes on its own, as far as is known now; null where nothing is known to end it. */
  readonly passesAt: Instant | null;
  /** Lines of one group wait for one decision, and go as one message where they go together (engine R11a); null for all others. */
  readonly together: string | null;
  /** False for an alert: it goes to others, about the student. */
  readonly toStudent: boolean;
  /** False once the student no longer matches: approving it would cancel it. */
  readonly stillTrue: boolean;
  readonly heldFor: HeldReason;
  /** As it was decided, and as it is now. */
  readonly evidence: readonly LeafEvidence[];
  readonly evidenceNow: readonly LeafEvidence[];
  readonly to: readonly { readonly kind: RecipientKind; readonly name: string; readonly address: string }[];
  /** The person in whose name it writes. */
  readonly from: string;
  readonly wording: string;
  /** The text that the instructor wrote for this one. */
  readonly edited: Variant | null;
  /** The text with its fields, to be edited. */
  readonly source: Variant | null;
  readonly message: { readonly subject: string; readonly text: string; readonly blocks: readonly Block[] } | null;
  /** Why there is no message. */
  readonly trouble: string | null;
  /** Put off until then. */
  readonly later: Instant | null;
}

export interface TrayAnswer {
  /** The most urgent of them. */
  readonly lines: readonly TrayLine[];
  /** How many wait in all, those that are put off included. */
  readonly waiting: number;
  /** How many are put off. */
  readonly later: number;
}

/** What became of nudges that were decided on. */
export interface TrayDecided {
  readonly done: number;
  /** Approved, and not sent: the second look found that they need not go. */
  readonly canceled: readonly { readonly name: string; readonly reason: string }[];
  /** While it can be taken back; null where it left at once, or nothing was to leave. */
  readonly sending: SendingAnswer | null;
}
