/** How one rule applies to one student at an instant: whether it finds them, why or why not, and what limits say. */
import type { Condition } from '../../conditions/condition.ts';
import { truthFor } from '../../conditions/evaluate.ts';
import { evidenceAt, type LeafEvidence } from '../../conditions/evidence.ts';
import type { Facts } from '../../measures/facts/facts.ts';
import type { Rule } from '../../rules/rule.ts';
import { contains, stretchAt } from '../../time/stretches.ts';
import type { Instant } from '../../time/instant.ts';
import { inAudience, limitCaseOf } from './decide.ts';
import { limitsRefusing } from './limits.ts';
import { type WithheldReason } from './withheld.ts';
import type { NudgeLog } from './log.ts';

export interface Standing {
  /** Whether the rule is about them at all: role, section, exceptions, and their story has started. */
  readonly inAudience: boolean;
  /** Null: not known (engine C3). */
  readonly verdict: boolean | null;
  /** Since when it has been true without a break; null while it is not. */
  readonly since: Instant | null;
  readonly when: Condition;
  /** Every leaf in the condition's order (engine C5). */
  readonly evidence: readonly LeafEvidence[];
  /** The step that a round now would take; null while none is due, or the rule does not find them. */
  readonly step: number | null;
  /** What limits would refuse that step, the first first. */
  readonly refusals: readonly WithheldReason[];
}

/** `person` is a place in the roster. */
export function standingOf(rule: Rule, person: number, facts: Facts, log: NudgeLog, t: Instant): Standing {
  const { course } = facts;
  const { yes, no } = truthFor(facts, person, rule.when);
  const verdict = contains(yes, t) ? true : contains(no, t) ? false : null;
  const audience = inAudience(course.people[person]!, rule.audience, course, t);
  const start = stretchAt(yes, t)?.start ?? null;
  const found = audience && start !== null && (rule.spellsFrom == null || start >= rule.spellsFrom);
  const limits = found ? limitCaseOf(rule, person, { start, end: Infinity }, facts, log, t) : null;
  return {
    inAudience: audience,
    verdict,
    since: start,
    when: rule.when,
    evidence: evidenceAt(facts, person, rule.when, t),
    step: limits?.step ?? null,
    refusals: limits ? limitsRefusing(limits) : [],
  };
}

/** The spells of a rule's condition for a student up to an instant; the last one may still go on, and then has no end. */
export function spellsUpTo(
  rule: Pick<Rule, 'when'>,
  person: number,
  facts: Facts,
  t: Instant,
): { readonly from: Instant; readonly to: Instant | null }[] {
  const { yes } = truthFor(facts, person, rule.when);
  const spells = [];
  for (let i = 0; i < yes.length && yes[i]! <= t; i += 2)
    spells.push({ from: yes[i]!, to: yes[i + 1]! > t ? null : yes[i + 1]! });
  return spells;
}
