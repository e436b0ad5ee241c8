/** What Today says to the browser. Instants are epoch ms. */
import type { ReasonLine } from './reasons.ts';
import type { LeafEvidence } from '../conditions/evidence.ts';
import type { Falling } from '../rounds/whatIf/fallingThrough.ts';
import type { RuleWeight } from '../rules/rule.ts';
import type { Instant } from '../time/instant.ts';
import type { RoundSummary } from './rules.ts';

/** The morning desk. */
export interface TodayAnswer {
  readonly since: Instant;
  readonly rang: readonly TodayRound[];
  readonly endingSoon: readonly { readonly rule: string; readonly name: string; readonly last: Instant }[];
  /** Students who came back since then: by an act of their own that ended what a nudge found (engine R13). */
  readonly returned: readonly (TodayPerson & { readonly nudge: number; readonly what: string })[];
  /** Mailboxes in which answers cannot be looked for, and what their server said. */
  readonly mailbox: readonly { readonly name: string; readonly said: string }[];
  /** Files of the course’s folder since then that were refused, in part or as a whole. */
  readonly files: readonly {
    readonly name: string;
    readonly at: Instant;
    readonly refused: number;
    readonly trouble: string | null;
  }[];
  /** When the clock of the server was set: what it said before and after, and the rounds that rang at a wrong time by it. */
  readonly clock: readonly {
    readonly from: Instant;
    readonly to: Instant;
    readonly rounds: readonly { readonly name: string; readonly at: Instant }[];
  }[];
  /** Why others changed rules, texts and limits in the last week. */
  readonly reasons: readonly ReasonLine[];
  /** Statements of the platform that wait for a choice. */
  readonly statements: number;
  /** Students with an address that does not work, and those who paused nudges. */
  readonly bounced: readonly TodayPerson[];
  readonly paused: readonly (Omit<TodayPerson, 'at'> & { readonly until: Instant | null })[];
}
/** What was sent since a day, and which of the students came back after it. */
export interface BackAnswer {
  readonly since: Instant;
  readonly lines: readonly BackLine[];
}

/** One nudge that reached its student. Who came back, came by an act of their own within two weeks that ended what it found (engine R13). */
export interface BackLine {
  readonly nudge: number;
  readonly student: string;
  readonly name: string;
  readonly sentAt: Instant;
  /** Null for one by hand. */
  readonly ruleName: string | null;
  /** False where no act of the student could be a return. */
  readonly canReturn: boolean;
  readonly back: { readonly at: Instant; readonly what: string } | null;
  readonly replied: boolean;
}

/** The rounds of the coming days, and how many each would nudge if nobody does anything more. */
export interface AheadAnswer {
  readonly until: Instant;
  readonly days: readonly {
    /** Local date. */
    readonly date: string;
    readonly rules: readonly {
      readonly id: string;
      readonly name: string;
      /** The rule’s rounds on that day. */
      readonly rounds: readonly Instant[];
      /** To students. */
      readonly nudges: number;
      /** Of these, how many wait for the instructor. */
      readonly held: number;
      /** About students, to others alone. */
      readonly alerts: number;
    }[];
  }[];
}

/** Students whom a rule finds and does not reach, the longest first; those set aside are apart. */
export interface FallingAnswer {
  readonly lines: readonly FallingLine[];
  readonly aside: readonly {
    readonly student: string;
    readonly name: string;
    readonly until: Instant;
    readonly note: string;
    readonly by: string;
  }[];
}
export interface FallingLine extends Omit<Falling, 'usedBy'> {
  readonly evidence: readonly LeafEvidence[];
  readonly name: string;
  readonly ruleName: string;
  /** The wording that the rule would send. */
  readonly wording: string;
  /** What used up the message budget: the name of its rule, null for a nudge by hand or a rule that is gone. */
  readonly usedBy: { readonly ruleName: string | null; readonly at: Instant } | null;
}

export interface TodayPerson {
  readonly student: string;
  readonly name: string;
  readonly at: Instant;
}

export interface TodayRound extends RoundSummary {
  readonly rule: string;
  readonly name: string;
  /** How much the rule weighs as it is now. */
  readonly weight: RuleWeight;
  readonly nudged: readonly { readonly student: string; readonly name: string }[];
  /** Whom an alert of it was about; it went to others alone. */
  readonly alerted: readonly { readonly student: string; readonly name: string }[];
}
