/** What the demo's Mailroom says to the browser. Instants are epoch ms. */
import type { Instant } from '../time/instant.ts';

export const ANSWER_KINDS = ['answer', 'outOfOffice', 'bounce'] as const;
export type AnswerKind = (typeof ANSWER_KINDS)[number];

export const MAILROOM_MODES = ['open', 'slow', 'busy', 'off'] as const;
export type MailroomMode = (typeof MAILROOM_MODES)[number];

export interface Mailbox {
  readonly address: string;
  readonly name: string;
  readonly role: string;
  readonly letters: number;
  readonly unread: number;
  readonly latestAt: Instant | null;
  /** Whether it takes no mail, as a mailbox that was closed. */
  readonly refusing: boolean;
}

export interface LetterLine {
  readonly id: string;
  readonly at: Instant;
  readonly from: string;
  readonly subject: string;
  readonly firstLine: string;
  readonly read: boolean;
}

export interface Letter extends LetterLine {
  readonly to: string;
  readonly html: string;
  readonly text: string;
  readonly headers: readonly { readonly name: string; readonly value: string }[];
  /** What arrived together with it. */
  readonly files?: readonly { readonly name: string; readonly type: string; readonly base64: string }[];
}
