/** What the server and the browser say to each other, as types: one place, so that neither can drift. Instants are epoch ms. */
import type { SendingAnswer } from './sendings.ts';
import type { LeafEvidence } from '../conditions/evidence.ts';
import type { CourseParts } from '../course/course.ts';
import type { SenderSettings } from '../course/sender.ts';
import type { SourceName } from '../course/sources.ts';
import type { DeliveryOutcome, MailTrouble } from '../nudges/delivery.ts';
import type { MessageState } from '../nudges/message.ts';
import type { ReplyKind } from '../nudges/reply.ts';
import { WITHDRAWN_REASONS, type WithdrawnReason, type Decision, type Explained } from '../rounds/decide/decision.ts';
import type { CourseGuards } from '../rounds/decide/courseLimits.ts';
import type { WithheldReason } from '../rounds/decide/limits.ts';
import type { Standing } from '../rounds/decide/standing.ts';
import type { Story } from '../lookout/story.ts';
import type { Factor } from './access.ts';
import type { AccessRole, Capability } from '../access/capabilities.ts';
import type { RoundTotals } from '../rounds/whatIf/limitsEffect.ts';
import type { TakenBy } from '../rounds/whatIf/reach.ts';
import type { Recipient } from '../rounds/decide/recipients.ts';
import type { Rule, RuleStatus } from '../rules/rule.ts';
import type { Instant } from '../time/instant.ts';
import type { TextResult, TextResults } from '../outcomes/textResults.ts';
import type { Message } from '../wording/render.ts';
import type { Copy, FileRef, LetterSettings, Variant, Wording } from '../wording/wording.ts';

export interface SessionAnswer {
  readonly account: {
    readonly id: number;
    readonly name: string;
    readonly email: string;
    /** Seconds that what they send by hand waits; 0 for none. */
    readonly sendDelay: number;
    /** Whether they keep the whole installation. */
    readonly isAdministrator: boolean;
  } | null;
  /** The courses in which they have a part, and what they may in each. */
  readonly courses: readonly {
    readonly id: number;
    readonly code: string;
    readonly title: string;
    readonly role: AccessRole;
    readonly may: readonly Capability[];
  }[];
  /** What is still to be shown before somebody is signed in; not there where nothing is. */
  readonly needs?: readonly Factor[];
  /** Whether a second factor has to be set up before anything else. */
  readonly mustSetFactor: boolean;
  readonly demo: boolean;
  readonly needsFirstAccount: boolean;
  /** Whether the first account takes the code that the server printed. */
  readonly needsFirstCode: boolean;
}

export interface CourseCard {
  readonly id: number;
  readonly code: string;
  readonly title: string;
  readonly timeZone: string;
  readonly students: number;
  readonly rulesOn: number;
  readonly isArchived: boolean;
}

/** The course without anything that happened in it. */
export interface CourseAnswer extends CourseParts {
  readonly id: number;
  readonly sender: SenderSettings;
  readonly guards: CourseGuards;
  /** Since when it is only read; null while it is not archived. */
  readonly archivedAt: Instant | null;
  /** Whether students’ messages carry a link with which they pause nudges: the server’s public address is known. */
  readonly pauseLinks: boolean;
  /** Grows with every change of it. */
  readonly version: number;
  /** Grows with its sender, its limits and its days: who saves them says which they have seen. */
  readonly settingsVersion: number;
}

/** What other limits would have changed, in the rounds since `from`; the first changes alone are listed. */
export interface LimitsEffectAnswer {
  readonly from: Instant;
  readonly until: Instant;
  readonly before: RoundTotals;
  readonly after: RoundTotals;
  readonly changed: number;
  readonly changes: readonly LimitChangeLine[];
}
export interface LimitChangeLine {
  readonly round: Instant;
  readonly ruleName: string;
  readonly studentName: string;
  readonly before: LimitSide;
  readonly after: LimitSide;
}
/** How a nudge came out on one side: nothing where there would have been no round or no decision. */
export interface LimitSide {
  readonly outcome: Decision['outcome'] | 'none';
  readonly reason: WithheldReason | WithdrawnReason | null;
  readonly sendAt: Instant | null;
}

/** Whether a course rings and sends as it should, and what stands in its way. */
export interface StandingAnswer {
  /** Mail of many messages on its way out: how many of them are dealt with; null while there is none. */
  readonly sending: { readonly done: number; readonly total: number } | null;
  /** Null while mail goes out. */
  readonly stopped: { readonly at: Instant; readonly by: string } | null;
  /** When the backup was made that this was restored from, until its mail is started: what waited then may have left since. */
  readonly copyFrom: Instant | null;
  /** Messages that wait to leave, and rules whose round waits, for whatever reason. */
  readonly queued: number;
  readonly overdue: readonly { readonly rule: string; readonly name: string; readonly since: Instant }[];
  readonly feed: {
    /** When the learning platform last told anything; null if it never did. */
    readonly heardAt: Instant | null;
    readonly staleHours: number | null;
    readonly stale: boolean;
    /** Which sources have been silent for too long, and how many rules that are on wait for them. */
    readonly sources: readonly SourceName[];
    readonly waiting: number;
  };
  readonly troubles: readonly Trouble[];
  /** Another text whenever something happened in the course that a place could show. */
  readonly news: string;
  /** Why no mail leaves; null while it does. */
  readonly mailTrouble: MailTroubleAnswer | null;
  readonly held: number;
  readonly failed: number;
  readonly uncertain: number;
}

export interface MailTroubleAnswer {
  readonly trouble: MailTrouble;
  /** The mail server's own words. */
  readonly response: string;
  readonly since: Instant;
  readonly nextTryAt: Instant;
}

/** A round that could not be held. */
export interface Trouble {
  readonly rule: string;
  readonly name: string;
  /** The round that failed first. */
  readonly since: Instant;
  readonly attempts: number;
  readonly nextTryAt: Instant;
  readonly message: string;
}

/** What happened between the instructor and one student, the latest first. */
export type StudentLine =
  | {
      readonly kind: 'nudge';
      readonly at: Instant;
      readonly nudge: number;
      readonly ruleName: string;
      readonly subject: string | null;
      readonly state: MessageState;
      readonly reason: LoggedReason | null;
      readonly evidence: readonly LeafEvidence[];
      /** False for an alert: it went to others, about the student. */
      readonly toStudent: boolean;
    }
  | {
      readonly kind: ReplyKind;
      readonly at: Instant;
      readonly nudge: number;
      readonly from: string;
      readonly text: string;
    }
  /** What the instructor wrote back to a reply. */
  | {
      readonly kind: 'answer';
      readonly at: Instant;
      readonly nudge: number;
      readonly by: string;
      readonly text: string;
    }
  /** The student's own act that ended what a nudge found (engine R13). */
  | { readonly kind: 'return'; readonly at: Instant; readonly nudge: number; readonly what: string };

export interface StudentAnswer {
  readonly student: string;
  readonly pausedUntil: Instant | null;
  /** When the address last proved not to work. */
  readonly bouncedAt: Instant | null;
  /** Where the student stands now: a measure's title and the fact behind it, in words. */
  readonly facts: readonly {
    readonly title: string;
    readonly value: string;
    readonly fact: string;
    /** Where the value stands among the class, where that is worth a word. */ readonly among: string | null;
  }[];
  readonly lines: readonly StudentLine[];
  readonly story: Story;
  /** Every rule that is on or paused, in the rules’ order. */
  readonly rules: readonly StudentRule[];
  /** What came of the nudges that reached them. */
  readonly outcome: TextResult;
}

/** How a rule stands with a student, and when it found them so far. */
export interface StudentRule {
  readonly rule: string;
  readonly name: string;
  readonly status: RuleStatus;
  /** Null when none will come. */
  readonly nextRoundAt: Instant | null;
  readonly standing: Standing;
  /** Spells of the term so far; the last has no end while it goes on. */
  readonly spells: readonly { readonly from: Instant; readonly to: Instant | null }[];
}

export const STARTING_ANEW = ['send', 'withdraw', 'unclear'] as const;
/** What becomes of the messages that wait when mail is started again. */
export type StartQueued = (typeof STARTING_ANEW)[number];
export const MISSED_CHOICES = ['look', 'skip'] as const;
/** Whether rounds that were missed meanwhile happen now, once, or not at all. */
export type MissedChoice = (typeof MISSED_CHOICES)[number];

/** How far the demo's clock is moved on. */
export const ADVANCES = ['hour', 'day', 'nextRound'] as const;
export type Advance = (typeof ADVANCES)[number];

export interface ClockAnswer {
  readonly now: Instant;
  /** Where the demo clock jumps to with "to the next round"; null when nothing rings any more. */
  readonly nextRound: Instant | null;
  readonly demo: boolean;
  /** True while the demo's learning platform tells nothing. */
  readonly silent: boolean;
}

/** One local date of the term. */
export interface TermDay {
  readonly date: string;
  readonly sent: number;
  /** What waits for the instructor: held, failed and uncertain. */
  readonly attention: number;
}

export interface TermAnswer {
  readonly days: readonly TermDay[];
  readonly coming: readonly { readonly at: Instant; readonly rules: readonly string[] }[];
  readonly attention: number;
}

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
  readonly lastRound: RoundSummary | null;
  /** Nudges to students that were sent, and alerts about students to others alone. */
  readonly sentInAll: number;
  readonly alertsInAll: number;
  /** When it was put away; null for a rule of the list. */
  readonly archivedAt: Instant | null;
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
}

/** Why a message did not leave: what the second look found, or that mail was stopped and what waited was withdrawn. */
export const LOGGED_REASONS = [...WITHDRAWN_REASONS, 'stopped'] as const;
export type LoggedReason = (typeof LOGGED_REASONS)[number];

/** Why a nudge was canceled, in words. */
export const LOGGED_WORDS: Readonly<Record<LoggedReason, string>> = {
  noLongerTrue: 'no longer matched when it was to leave',
  ruleOff: 'the rule was turned off',
  inactive: 'no longer in the course',
  paused: 'paused by the student',
  noAddress: 'no email address',
  courseOver: 'the course is over',
  stopped: 'mail was stopped',
};

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
  /** Names of what goes with it. */
  readonly files: readonly string[];
  /** Which of the wording's texts; null where it has one. */
  readonly text: number | null;
  /** About how many students it is, where a step tells of all in one message; else null. */
  readonly together: number | null;
}

export interface RehearsalAnswer {
  readonly at: Instant;
  readonly matching: number;
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

export interface WordingAnswer extends Wording {
  readonly variants: readonly Variant[];
  readonly copies: readonly Copy[];
  readonly files: readonly FileRef[];
  readonly letter: LetterSettings | null;
  readonly version: number;
  /** Names of the rules whose steps use it. */
  readonly usedBy: readonly string[];
  /** Whether a fair trial of its texts is running. */
  readonly onTrial: boolean;
}

/** What came of the texts of each wording, by its id. */
export type WordingResultsAnswer = Readonly<Record<string, TextResults>>;

/** What the mail server said to a test. */
export type MailTestAnswer = DeliveryOutcome;

export interface PreviewAnswer {
  readonly student: string;
  readonly message: Message;
  /** Names of what goes with it. */
  readonly files: readonly string[];
}

/** What every merge field says of one student, by its name. */
export type FieldExamples = Readonly<Record<string, string>>;

/** Every student of the course read with the words: whom they fail, and at whom they would break first. */
export interface AwkwardAnswer {
  /** How many students they were read for. */
  readonly read: number;
  /** Students for whom a field without a fallback is empty. */
  readonly blank: readonly { readonly student: string; readonly fields: readonly string[] }[];
  readonly awkward: readonly { readonly student: string; readonly words: string }[];
}

/** What the ingestion route says, row by row. */
export interface IngestAnswer {
  readonly taken: number;
  /** Rows whose id had been taken before: they changed nothing. */
  readonly repeated: number;
  readonly refused: readonly { readonly path: string; readonly message: string }[];
}
