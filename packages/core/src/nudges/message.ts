/**
 * The life of one message as a state machine. The server claims a message before it hands it to the mail server; when a
 * process dies in between nobody can know whether it left, so it is kept as `uncertain` for the instructor.
 */
export const MESSAGE_STATES = [
  'queued',
  'held',
  'handing',
  'sent',
  'failed',
  'uncertain',
  'withdrawn',
  'dismissed',
] as const;
export type MessageState = (typeof MESSAGE_STATES)[number];

/** As people call them. */
export const STATE_NAMES: Readonly<Record<MessageState, string>> = {
  queued: 'queued',
  held: 'waiting for you',
  handing: 'being sent',
  sent: 'sent',
  failed: 'failed',
  uncertain: 'unclear',
  withdrawn: 'canceled',
  dismissed: 'dismissed',
};

const NEXT: Readonly<Record<MessageState, readonly MessageState[]>> = {
  held: ['queued', 'dismissed', 'withdrawn'],
  // Back to waiting, when it turns out to leave for an address that nobody said yes to.
  // Unclear where it waited in a copy: it may have left from what was copied.
  queued: ['handing', 'withdrawn', 'failed', 'held', 'uncertain'],
  // Claimed, and then either handed over or found, at the second look, not to leave now.
  handing: ['sent', 'queued', 'failed', 'uncertain', 'withdrawn', 'held'],
  // The claimer may still learn the answer after another process took it for dead.
  uncertain: ['sent', 'failed', 'queued'],
  sent: [],
  // Sent again by the instructor, once the reason is gone.
  failed: ['queued'],
  withdrawn: [],
  // Taken back by the instructor: it waits again.
  dismissed: ['held'],
};

/** The states from which a message can come to `to`. */
export const statesBefore = (to: MessageState): readonly MessageState[] =>
  MESSAGE_STATES.filter((from) => NEXT[from].includes(to));

/** Why a message waits for the instructor: its step says so, the student has replied, or its address got no yes. */
export const HELD_REASONS = ['step', 'replied', 'outside'] as const;
export type HeldReason = (typeof HELD_REASONS)[number];

export const canMove = (from: MessageState, to: MessageState): boolean => NEXT[from].includes(to);

/** Whether a nudge in this state counts for limits (engine R3); dismissed ones count except for the budget. */
export const countsForLimits = (s: MessageState): boolean => s !== 'withdrawn' && s !== 'failed';
export const countsForBudget = (s: MessageState): boolean => countsForLimits(s) && s !== 'dismissed';
export const isPending = (s: MessageState): boolean => s === 'queued' || s === 'held' || s === 'handing';

/** One nudge a rule, a student and a round: the key under which the store refuses a second one. */
export const nudgeKey = (rule: string, student: string, round: number): string => `${rule}:${student}:${round}`;
