/** What is decided about one student at a round, with its evidence. */
import { evidenceAt, type LeafEvidence } from '../conditions/evidence.ts';
import type { Facts } from '../measures/facts.ts';
import type { HeldReason } from '../nudges/message.ts';
import type { Rule } from '../rules/rule.ts';
import type { Instant } from '../time/instant.ts';
import type { WithheldReason } from './limits.ts';
import type { Recipient } from './recipients.ts';

export const WITHDRAWN_REASONS = ['noLongerTrue', 'ruleOff', 'inactive', 'paused', 'noAddress', 'courseOver'] as const;
export type WithdrawnReason = (typeof WITHDRAWN_REASONS)[number];

interface DecisionOf {
  readonly rule: string;
  readonly student: string;
  readonly round: Instant;
  readonly step: number;
  readonly spellStart: Instant;
  readonly evidence: readonly LeafEvidence[];
  readonly to: readonly Recipient[];
}

export type Decision =
  | (DecisionOf & { readonly outcome: 'sent'; readonly reason: null; readonly sendAt: Instant })
  | (DecisionOf & {
      readonly outcome: 'held';
      readonly reason: null;
      readonly sendAt: null;
      readonly heldFor: HeldReason;
    })
  | (DecisionOf & { readonly outcome: 'withheld'; readonly reason: WithheldReason; readonly sendAt: null })
  | (DecisionOf & { readonly outcome: 'withdrawn'; readonly reason: WithdrawnReason; readonly sendAt: Instant });

export const NOBODY: readonly Recipient[] = [];

/**
 * A decision whose evidence is computed when it is first read, because most of a long replay's evidence never is. Read it before
 * the history takes in more: it says what is known at that moment. A class with as little around it as can be, as a replay makes
 * them by the ten thousand.
 */
export class Made {
  readonly rule: string;
  readonly student: string;
  readonly round: Instant;
  readonly step: number;
  readonly spellStart: Instant;
  outcome: Decision['outcome'] = 'withheld';
  reason: Decision['reason'] = null;
  sendAt: Instant | null = null;
  to: readonly Recipient[] = NOBODY;
  heldFor: HeldReason | undefined = undefined;
  readonly #facts: Facts;
  readonly #rule: Rule;
  readonly #person: number;
  #evidence: readonly LeafEvidence[] | null = null;

  constructor(facts: Facts, rule: Rule, person: number, round: Instant, step: number, spellStart: Instant) {
    this.rule = rule.id;
    this.student = facts.course.people[person]!.id;
    this.round = round;
    this.step = step;
    this.spellStart = spellStart;
    this.#facts = facts;
    this.#rule = rule;
    this.#person = person;
  }

  /** How it comes out. */
  as(
    outcome: Decision['outcome'],
    reason: Decision['reason'],
    sendAt: Instant | null,
    to: readonly Recipient[],
    heldFor?: HeldReason,
  ): Decision {
    this.outcome = outcome;
    this.reason = reason;
    this.sendAt = sendAt;
    this.to = to;
    this.heldFor = heldFor;
    return this as unknown as Decision;
  }

  get evidence(): readonly LeafEvidence[] {
    return (this.#evidence ??= evidenceAt(this.#facts, this.#person, this.#rule.when, this.round));
  }

  /** The same nudge, withdrawn at its second look. */
  withdrawn(reason: WithdrawnReason): Decision {
    const other = new Made(this.#facts, this.#rule, this.#person, this.round, this.step, this.spellStart);
    return other.as('withdrawn', reason, this.sendAt, this.to);
  }

  /** With its evidence, which is no field of its own. */
  toJSON(): object {
    return { ...this, evidence: this.evidence };
  }
}

/** The decision to send a step to these recipients. */
export const sending = (
  { facts, rule, person, round, step, spellStart }: SendOrder,
  sendAt: Instant,
  to: readonly Recipient[],
): Decision => new Made(facts, rule, person, round, step, spellStart).as('sent', null, sendAt, to);

export interface SendOrder {
  readonly facts: Facts;
  readonly rule: Rule;
  /** By roster index. */
  readonly person: number;
  readonly round: Instant;
  readonly step: number;
  readonly spellStart: Instant;
}

/** A nudge that was to be sent, and was withdrawn at its second look. */
export const withdrawn = (d: Decision, reason: WithdrawnReason): Decision => (d as unknown as Made).withdrawn(reason);

/** A plain copy with its evidence, to be handed to another thread. */
export const written = (d: Decision): Decision => (d as unknown as Made).toJSON() as Decision;

/** Something with evidence that is computed when it is first read. */
export function withEvidence<T extends object>(
  decision: T,
  evidence: () => LeafEvidence[],
): T & { readonly evidence: readonly LeafEvidence[] } {
  let made: LeafEvidence[] | null = null;
  return {
    ...decision,
    get evidence() {
      return (made ??= evidence());
    },
  };
}
