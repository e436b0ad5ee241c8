/** What the server and the browser say to each other, as types: one place, so that neither can drift. Instants are epoch ms. */
import type { LoggedReason } from './logged.ts';
import type { PresenceKnown } from '../activity/presenceKnown.ts';
import type { LeafEvidence } from '../conditions/evidence.ts';
import type { Condition } from '../conditions/condition.ts';
import type { CourseParts } from '../course/course.ts';
import type { OwnSender, SenderSettings } from '../course/sender.ts';
import type { SourceName } from '../course/sources.ts';
import type { DeliveryOutcome, MailTrouble } from '../nudges/delivery.ts';
import type { MessageState } from '../nudges/message.ts';
import type { ReplyKind } from '../nudges/reply.ts';
import { type WithdrawnReason, type Decision } from '../rounds/decide/decision.ts';
import type { CourseGuards } from '../rounds/decide/courseLimits.ts';
import type { WithheldReason } from '../rounds/decide/withheld.ts';
import type { Standing } from '../rounds/decide/standing.ts';
import type { Story } from '../lookout/story.ts';
import type { RoundTotals } from '../rounds/whatIf/limitsEffect.ts';
import type { RuleStatus } from '../rules/rule.ts';
import type { Instant } from '../time/instant.ts';
import type { TextResult, TextResults } from '../outcomes/textResults.ts';
import type { Message } from '../wording/render.ts';
import type { Copy, FileRef, LetterSettings, Variant, Wording } from '../wording/wording.ts';

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
  /** False for one that a launch has made, until somebody confirms its days and zone. */
  readonly daysConfirmed: boolean;
  /** What its reader signs with in its place; null for nothing of their own. */
  readonly own: OwnSender | null;
  readonly guards: CourseGuards;
  /** Whom its people worry about: what signs are read for, unless told otherwise. */
  readonly worry: Condition;
  /** What it knows of when its students were there. */
  readonly presence: PresenceKnown;
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

/** Whether a course rings and sends as it should, and what is in its way. */
export interface StandingAnswer {
  /** Mail of many messages on its way out: how many of them are dealt with; null while nothing is on its way. */
  readonly sending: { readonly done: number; readonly total: number } | null;
  /** Null while mail goes out. */
  readonly stopped: { readonly at: Instant; readonly by: string } | null;
  /** When the backup was made that this was restored from, until its mail is started: what waited then may have left since. */
  readonly copyFrom: Instant | null;
  /** Messages that wait to leave, and rules with a round that waits, for any reason. */
  readonly queued: number;
  readonly overdue: readonly { readonly rule: string; readonly name: string; readonly since: Instant }[];
  readonly feed: {
    /** Whether activity, grades or attendance have ever come in, from wherever. */
    readonly hasHeard: boolean;
    /** When the learning platform last told anything; null if it never did. */
    readonly heardAt: Instant | null;
    readonly staleHours: number | null;
    readonly stale: boolean;
    /** Which sources have been silent for too long, and how many rules that are on wait for them. */
    readonly sources: readonly SourceName[];
    readonly waiting: number;
  };
  readonly troubles: readonly Trouble[];
  /** Rules that are on and cannot run as the course is now, and why; those with a trouble say it themselves. */
  readonly stuck: readonly { readonly rule: string; readonly name: string; readonly why: string }[];
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
  /** Where the student is now: a measure's title and the fact behind it, in words. */
  readonly facts: readonly {
    readonly title: string;
    readonly value: string;
    readonly fact: string;
    /** Where the value is among the class, where that is worth a word. */ readonly among: string | null;
  }[];
  readonly lines: readonly StudentLine[];
  readonly story: Story;
  /** Every rule that is on or paused, in the rules’ order. */
  readonly rules: readonly StudentRule[];
  /** What came of the nudges that reached them. */
  readonly outcome: TextResult;
}

/** Whether a rule matches a student now, and when it found them so far. */
export interface StudentRule {
  readonly rule: string;
  readonly name: string;
  readonly status: RuleStatus;
  /** Whether it is or was on. */
  readonly wasOn: boolean;
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
/** Whether rounds that were missed in the meantime happen now, once, or not at all. */
export type MissedChoice = (typeof MISSED_CHOICES)[number];

/** How far the demo's clock is moved on. */
export const ADVANCES = ['hour', 'day', 'nextRound'] as const;
export type AdvanceStep = (typeof ADVANCES)[number];

export interface ClockAnswer {
  readonly now: Instant;
  /** Where the demo clock jumps to with "to the next round"; null when nothing rings any more. */
  readonly nextRound: Instant | null;
  readonly demo: boolean;
  /** True while the demo's learning platform tells nothing. */
  readonly silent: boolean;
  /** The address of the demo's learning platform; null if absent. */
  readonly campus: string | null;
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

export interface WordingAnswer extends Wording {
  readonly variants: readonly Variant[];
  readonly copies: readonly Copy[];
  readonly files: readonly FileRef[];
  readonly letter: LetterSettings | null;
  readonly version: number;
  /** Names of the rules with steps that use it. */
  readonly usedBy: readonly string[];
  /** Whether a fair trial of its texts is running. */
  readonly onTrial: boolean;
  /** What somebody drafted beside it while a running rule says it, and nobody has published yet. */
  readonly drafted: { readonly wording: Wording; readonly by: string; readonly at: Instant } | null;
}

/** What came of the texts of each wording, by its id. */
export type WordingResultsAnswer = Readonly<Record<string, TextResults>>;

/** What the mail server said to a test. */
export type MailTestAnswer = DeliveryOutcome;

export interface PreviewAnswer {
  readonly student: string;
  readonly message: Message;
  /** Names of its attachments. */
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
  /** Rows with an id that was already taken: they changed nothing. */
  readonly repeated: number;
  readonly refused: readonly { readonly path: string; readonly message: string }[];
}
