/** What waits for somebody over all their courses. Instants are epoch ms. */
import type { Instant } from '../time/instant.ts';
import type { Digest } from './lookout.ts';

export interface InboxCourse {
  readonly course: number;
  readonly code: string;
  readonly title: string;
  readonly timeZone: string;
  /** Nudges in the Tray that were not put off. */
  readonly waiting: number;
  /** Replies that nobody has answered or settled. */
  readonly replies: number;
  /** Students with bounced mail. */
  readonly bounced: number;
  /** Students whom a rule finds and does not reach. */
  readonly falling: number;
  /** Rules that cannot run, mail that cannot leave, data that is too old. */
  readonly troubles: number;
  /** Messages that failed, or of which nobody knows whether they arrived. */
  readonly unclear: number;
  readonly setUpLeft: number;
}

export const INBOX_KINDS = ['troubles', 'waiting', 'replies', 'bounced', 'unclear', 'falling', 'setUpLeft'] as const;
export type InboxKind = (typeof INBOX_KINDS)[number];

export interface InboxReply {
  readonly id: number;
  readonly course: number;
  readonly code: string;
  readonly nudge: number;
  /** Null for what somebody else than the student wrote. */
  readonly student: string | null;
  readonly name: string;
  /** The author of the message that it answers; null where the course itself wrote. */
  readonly writer: { readonly name: string; readonly isYou: boolean } | null;
  /** The rule of the nudge that it answers, and whether that rule stops at a reply; null for a direct message, or a rule that is off. */
  readonly rule: { readonly name: string; readonly stops: boolean; readonly steps: number } | null;
  /** Whether the student’s nudges are paused now, and whether the reader of this may pause them. */
  readonly isPaused: boolean;
  readonly mayPause: boolean;
  readonly fromAddress: string;
  readonly at: Instant;
  readonly subject: string;
  readonly text: string;
}

export interface InboxAnswer {
  readonly courses: readonly InboxCourse[];
  /** Those that wait, the oldest first, of all courses. */
  readonly replies: readonly InboxReply[];
  readonly digest: Digest;
}

/** Whether nothing of a course waits. */
export const isClear = (course: InboxCourse): boolean => INBOX_KINDS.every((kind) => course[kind] === 0);

/** What waits in a course, in words that stand after its name. Each with its count; the most pressing first. */
export function inboxWords(course: InboxCourse): string[] {
  return INBOX_KINDS.flatMap((kind) => (course[kind] === 0 ? [] : [inboxLine(kind, course[kind])]));
}

export function inboxLine(kind: InboxKind, n: number): string {
  const one = n === 1;
  switch (kind) {
    case 'troubles':
      return `${n} ${one ? 'trouble' : 'troubles'} with rules or mail`;
    case 'waiting':
      return `${n} ${one ? 'nudge' : 'nudges'} waiting for your decision`;
    case 'replies':
      return `${n} ${one ? 'reply' : 'replies'} to answer`;
    case 'bounced':
      return `${n} ${one ? 'address that does' : 'addresses that do'} not work`;
    case 'unclear':
      return `${n} ${one ? 'message' : 'messages'} failed or unclear`;
    case 'falling':
      return `${n} ${one ? 'student' : 'students'} falling through`;
    case 'setUpLeft':
      return `${n} ${one ? 'step' : 'steps'} of set-up left`;
  }
}
