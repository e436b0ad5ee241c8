/** What a mail server's answer means for the message, and when to try again. */
import { HOUR, MINUTE, type Instant } from '../time/instant.ts';
import type { MessageState } from './message.ts';

/**
 * `mute`: the server said nothing that a mail server says; of one message that means little, of several in a row it may be the server.
 * `dropped`: it closed the line instead of keeping silent.
 */
export type DeliveryOutcome =
  | { readonly kind: 'sent'; readonly response: string }
  | { readonly kind: 'transient'; readonly response: string; readonly mute?: boolean; readonly dropped?: boolean }
  | { readonly kind: 'permanent'; readonly response: string }
  /** The line dropped after the text was handed over: it may have left or not. */
  | { readonly kind: 'unknown'; readonly response: string; readonly mute?: boolean; readonly dropped?: boolean }
  /** The server takes no mail from us now. It says nothing about the message, which waits as it is. */
  | { readonly kind: 'unavailable'; readonly trouble: MailTrouble; readonly response: string };

/** What keeps mail from leaving at all, for anyone who runs the server; `sender` is about one course's own address. */
export const MAIL_TROUBLES = ['notSet', 'password', 'encryption', 'unreachable', 'refused', 'sender'] as const;
export type MailTrouble = (typeof MAIL_TROUBLES)[number];

/** The part of the talk with the mail server in which a hand-over failed (RFC 5321 §3). */
export const SMTP_PHASES = ['connect', 'encrypt', 'signIn', 'sender', 'recipient', 'text'] as const;
export type SmtpPhase = (typeof SMTP_PHASES)[number];

/** A failed hand-over. */
export interface DeliveryError {
  readonly phase: SmtpPhase;
  /** The three digits of the server's answer, if it gave one. */
  readonly responseCode?: number | undefined;
  /** The server's own words, or the reason of the line's failure. */
  readonly response: string;
  /** True where nothing was asked of the server: the message itself cannot be handed over. */
  readonly unsound?: boolean | undefined;
  /** True where the wait was given up: anyone who is slow may yet answer. */
  readonly late?: boolean | undefined;
  /** True where the server closed the line. */
  readonly dropped?: boolean | undefined;
}

const BEFORE_MESSAGE: Readonly<Partial<Record<SmtpPhase, MailTrouble>>> = {
  encrypt: 'encryption',
  signIn: 'password',
  sender: 'sender',
};

/**
 * What a failure means. Before the recipient is named it is about us and not about the message: the message waits. From
 * then on RFC 5321 §4.2.1 holds: 4yz may work later, 5yz will not; and without an answer once the text was on its way,
 * nobody knows.
 */
export function classify({
  phase,
  responseCode: code,
  response,
  unsound,
  late,
  dropped,
}: DeliveryError): DeliveryOutcome {
  if (unsound) return { kind: 'permanent', response };
  // RFC 4954 §6: 530 and 535 mean that the server wants a sign-in, or another one, at whatever point it says so.
  if (code === 530 || code === 535) return { kind: 'unavailable', trouble: 'password', response };
  // RFC 5321 §3.8 and §4.2.3: 421 closes the line for whatever reason the server has, at any point, and is about no message or sender.
  if (code === 421) return { kind: 'unavailable', trouble: 'refused', response };
  if (phase === 'connect') {
    return { kind: 'unavailable', trouble: code === undefined ? 'unreachable' : 'refused', response };
  }
  const trouble = BEFORE_MESSAGE[phase];
  if (trouble) return { kind: 'unavailable', trouble, response };
  if (code !== undefined && code >= 500 && code < 600) return { kind: 'permanent', response };
  if (code !== undefined && code >= 400 && code < 500) return { kind: 'transient', response };
  const said = late ? {} : { mute: true, ...(dropped ? { dropped } : {}) };
  return { kind: phase === 'text' ? 'unknown' : 'transient', response, ...said };
}

/** RFC 5321 §4.5.4.1: at least half an hour after the first tries, and four to five days before giving up. */
const DELAYS = [1, 5, 15, 60, 240].map((m) => m * MINUTE);
const LATER = 8 * HOUR;
const MOST_ATTEMPTS = 17;

/** The wait before the next attempt after `attempts` have failed, or null when it is time to give up. */
export const retryDelay = (attempts: number): number | null =>
  attempts >= MOST_ATTEMPTS ? null : (DELAYS[attempts - 1] ?? LATER);

const TROUBLE_DELAYS = [1, 2, 5, 10, 15].map((m) => m * MINUTE);

/** The wait before mail is tried again that the server did not take at all; it never ends. */
export const troubleDelay = (tries: number): number => TROUBLE_DELAYS[tries - 1] ?? 30 * MINUTE;

/** What becomes of a message that was handed over, or was to be. */
export type AfterHandOver =
  | { readonly to: Extract<MessageState, 'sent' | 'failed' | 'uncertain'> }
  /** Tried again then. */
  | { readonly to: 'queued'; readonly at: Instant }
  /** The server was in no state to say anything about it: as if nobody had tried. */
  | 'asBefore';

/** `attempts` counts the one that was just answered. */
export function afterHandOver({ kind }: Pick<DeliveryOutcome, 'kind'>, attempts: number, now: Instant): AfterHandOver {
  switch (kind) {
    case 'sent':
      return { to: 'sent' };
    case 'permanent':
      return { to: 'failed' };
    case 'unknown':
      return { to: 'uncertain' };
    case 'unavailable':
      return 'asBefore';
    case 'transient': {
      const delay = retryDelay(attempts);
      return delay === null ? { to: 'failed' } : { to: 'queued', at: now + delay };
    }
  }
}
