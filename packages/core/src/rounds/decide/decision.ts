/** What is decided about one student at a round, with its evidence. */
import { evidenceAt, type LeafEvidence } from '../../conditions/evidence.ts';
import type { PersonSpell } from '../../conditions/spells.ts';
import type { Facts } from '../../measures/facts/facts.ts';
import type { HeldReason } from '../../nudges/message.ts';
import type { Rule } from '../../rules/rule.ts';
import type { Instant } from '../../time/instant.ts';
import type { WithheldReason } from './limits.ts';
import { recipientsOf, type Recipient } from './recipients.ts';

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

const NOBODY: readonly Recipient[] = [];

/** What all decisions of a rule at one round share. */
export interface RoundOf {
  readonly facts: Facts;
  readonly rule: Rule;
  readonly round: Instant;
  /** When evidence is read, where only another instant's is known: what is shown of a round to come. */
  readonly seenAt?: Instant | undefined;
}

/**
 * A decision whose evidence and recipients are computed when they are read, because in a long replay most never are. Read evidence
 * before the history takes in more: it says what is known at that moment. What others share it reads from there, as a replay makes
 * decisions by the ten thousand.
 */
export class Made {
  readonly step: number;
  outcome: Decision['outcome'] = 'withheld';
  reason: Decision['reason'] = null;
  sendAt: Instant | null = null;
  heldFor: HeldReason | undefined = undefined;
  readonly #of: RoundOf;
  readonly #spell: PersonSpell;
  #evidence: readonly LeafEvidence[] | null = null;
  /** Null for those the step names. */
  readonly #to: readonly Recipient[] | null;

  constructor(of: RoundOf, spell: PersonSpell, step: number, to: readonly Recipient[] | null = null) {
    this.step = step;
    this.#to = to;
    this.#of = of;
    this.#spell = spell;
  }

  get rule(): string {
    return this.#of.rule.id;
  }

  get student(): string {
    return this.#of.facts.course.people[this.#spell.person]!.id;
  }

  get round(): Instant {
    return this.#of.round;
  }

  get spellStart(): Instant {
    return this.#spell.start;
  }

  get evidence(): readonly LeafEvidence[] {
    const { facts, rule, round, seenAt } = this.#of;
    return (this.#evidence ??= evidenceAt(facts, this.#spell.person, rule.when, seenAt ?? round));
  }

  /** Nobody where a limit keeps it back. */
  get to(): readonly Recipient[] {
    if (this.outcome === 'withheld') return NOBODY;
    const { facts, rule } = this.#of;
    return this.#to ?? recipientsOf(rule.steps[this.step]!, facts.course.people[this.#spell.person]!, facts.course);
  }

  /** How it comes out. */
  as(outcome: Decision['outcome'], reason: Decision['reason'], sendAt: Instant | null, heldFor?: HeldReason): Decision {
    this.outcome = outcome;
    this.reason = reason;
    this.sendAt = sendAt;
    this.heldFor = heldFor;
    return this as unknown as Decision;
  }

  /** The same nudge, withdrawn at its second look. */
  withdrawn(reason: WithdrawnReason): Decision {
    return new Made(this.#of, this.#spell, this.step, this.#to).as('withdrawn', reason, this.sendAt);
  }

  /** With all that is no field of its own. */
  toJSON(): object {
    const { rule, student, round, step, spellStart, outcome, reason, sendAt, heldFor, to, evidence } = this;
    return { rule, student, round, step, spellStart, outcome, reason, sendAt, heldFor, to, evidence };
  }
}

/** The decision to send a step to these recipients, whoever the step names. */
export const sending = (
  of: RoundOf,
  spell: PersonSpell,
  step: number,
  sendAt: Instant,
  to: readonly Recipient[],
): Decision => new Made(of, spell, step, to).as('sent', null, sendAt);

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
