/** What it means that the mail server says nothing to several messages in a row: one reader's domain may be slow, or the server may be gone. */
import type { DeliveryOutcome } from './delivery.ts';

/** A message that was handed over, or was to be. */
export interface HandOverResult {
  readonly course: number;
  /** The recipient's. */
  readonly domain: string;
  readonly outcome: DeliveryOutcome;
}

/** Messages in a row without an answer that say something about the server. */
const TELLING = 3;

/** Those in a row without an answer, after this one. */
export function unansweredAfter(before: readonly HandOverResult[], one: HandOverResult): readonly HandOverResult[] {
  const { outcome } = one;
  if ('mute' in outcome && outcome.mute) return [...before, one];
  return outcome.kind === 'unavailable' ? before : [];
}

/**
 * `server`: the server takes no mail, as it is silent to several courses or domains, or closes the line each time.
 * `ask`: it is silent to one course and one domain, which may be theirs: whether it answers anything tells.
 */
export function silenceOf(inARow: readonly HandOverResult[]): 'none' | 'ask' | 'server' {
  if (inARow.length < TELLING) return 'none';
  const isOne = (of: (one: HandOverResult) => unknown) => new Set(inARow.map(of)).size === 1;
  const closes = inARow.every(({ outcome }) => 'dropped' in outcome && outcome.dropped === true);
  return closes || !isOne((m) => m.course) || !isOne((m) => m.domain) ? 'server' : 'ask';
}
