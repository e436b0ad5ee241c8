/** What a mail server's answer means for the message, and when to try again. */
import { MINUTE } from '../time/instant.ts';

export type DeliveryOutcome =
  | { readonly kind: 'sent'; readonly response: string }
  | { readonly kind: 'transient'; readonly response: string }
  | { readonly kind: 'permanent'; readonly response: string }
  /** The line dropped after the text was handed over: it may have left or not. */
  | { readonly kind: 'unknown'; readonly response: string };

/** A failed hand-over as mail libraries tell it. */
export interface DeliveryError {
  readonly responseCode?: number | undefined;
  readonly response?: string | undefined;
  readonly code?: string | undefined;
  readonly command?: string | undefined;
  readonly message: string;
}

/** RFC 5321 §4.2.1: 4yz may work later, 5yz will not. Without an answer after DATA nobody knows. */
export function classify(error: DeliveryError): DeliveryOutcome {
  const response = error.response ?? error.message;
  const code = error.responseCode;
  if (code !== undefined && code >= 500 && code < 600) return { kind: 'permanent', response };
  if (code !== undefined && code >= 400 && code < 500) return { kind: 'transient', response };
  const afterText = error.command === 'DATA' || error.command === 'MESSAGE';
  if (afterText) return { kind: 'unknown', response };
  if (error.code === 'EENVELOPE' || error.code === 'EMESSAGE') return { kind: 'permanent', response };
  return { kind: 'transient', response };
}

const DELAYS = [1, 5, 15, 60, 240].map((m) => m * MINUTE);

/** The wait before the next attempt after `attempts` have failed, or null when it is time to give up. */
export const retryDelay = (attempts: number): number | null => DELAYS[attempts - 1] ?? null;
