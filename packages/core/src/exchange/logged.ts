import { WITHDRAWN_REASONS } from '../rounds/decide/decision.ts';

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
  replied: 'replied before it left',
  courseOver: 'the course is over',
  stopped: 'mail was stopped',
};
