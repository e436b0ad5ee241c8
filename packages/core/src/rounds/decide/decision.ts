/** What is decided about one student at a round, and why. */
import { evidenceAt, type LeafEvidence } from '../../conditions/evidence.ts';
import type { Facts } from '../../measures/facts/facts.ts';
import type { HeldReason } from '../../nudges/message.ts';
import type { Rule } from '../../rules/rule.ts';
import type { Instant } from '../../time/instant.ts';
import type { WithheldReason } from './withheld.ts';
import type { Recipient } from './recipients.ts';

export const WITHDRAWN_REASONS = [
  'noLongerTrue',
  'ruleOff',
  'inactive',
  'paused',
  'noAddress',
  'replied',
  'courseOver',
] as const;
export type WithdrawnReason = (typeof WITHDRAWN_REASONS)[number];

interface DecisionOf {
  readonly rule: string;
  readonly student: string;
  readonly round: Instant;
  readonly step: number;
  readonly spellStart: Instant;
  /** Nobody where a limit keeps it back. */
  readonly to: readonly Recipient[];
}

export interface SentDecision extends DecisionOf {
  readonly outcome: 'sent';
  readonly reason: null;
  readonly sendAt: Instant;
}

export interface HeldDecision extends DecisionOf {
  readonly outcome: 'held';
  readonly reason: null;
  readonly sendAt: null;
  readonly heldFor: HeldReason;
}

export interface WithheldDecision extends DecisionOf {
  readonly outcome: 'withheld';
  readonly reason: WithheldReason;
  readonly sendAt: null;
}

/** It was to be sent, and was withdrawn: at its second look, or because the course is over by then. */
export interface WithdrawnDecision extends DecisionOf {
  readonly outcome: 'withdrawn';
  readonly reason: WithdrawnReason;
  readonly sendAt: Instant;
}

export type Decision = SentDecision | HeldDecision | WithheldDecision | WithdrawnDecision;

/** With what made the condition true. */
export type Explained = Decision & { readonly evidence: readonly LeafEvidence[] };

export const withdrawn = (d: SentDecision, reason: WithdrawnReason): WithdrawnDecision => ({
  ...d,
  outcome: 'withdrawn',
  reason,
});

/**
 * What made the condition true for a student at `t`: of `facts` as they are when it is asked, so ask before a history takes in more.
 * Most decisions of a long replay are never asked.
 */
export const evidenceOf = (student: string, rule: Pick<Rule, 'when'>, facts: Facts, t: Instant): LeafEvidence[] =>
  evidenceAt(facts, facts.course.personIndex.get(student)!, rule.when, t);

/** `seenAt`: the instant of the facts that are shown, where only another instant's are known. */
export const explained = (d: Decision, rule: Rule, facts: Facts, seenAt: Instant = d.round): Explained => ({
  ...d,
  evidence: evidenceOf(d.student, rule, facts, seenAt),
});
