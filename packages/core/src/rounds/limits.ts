/** Why a nudge is withheld (engine R6): the limits in their order, the first that refuses is the reason. */
import type { Course } from '../course/course.ts';
import type { Person } from '../course/person.ts';
import { countsForBudget, countsForLimits, isPending } from '../nudges/message.ts';
import { RULE_WEIGHTS, type Rule, type RuleWeight } from '../rules/rule.ts';
import type { Instant } from '../time/instant.ts';
import type { LoggedNudge } from './log.ts';
import { recipientsOf } from './recipients.ts';

export const WITHHELD_REASONS = ['pending', 'perSpell', 'perTerm', 'gap', 'paused', 'budget', 'noAddress'] as const;
export type WithheldReason = (typeof WITHHELD_REASONS)[number];

/** A limit in words, after "held back:". */
export const WITHHELD_WORDS: Readonly<Record<WithheldReason, string>> = {
  pending: 'a nudge is waiting',
  perSpell: 'already nudged this spell',
  perTerm: 'this term’s limit reached',
  gap: 'nudged too recently',
  paused: 'paused by the student',
  budget: 'message budget used up',
  noAddress: 'no email address',
};

export interface LimitCase {
  readonly course: Course;
  readonly rule: Rule;
  readonly student: Person;
  readonly step: number;
  readonly round: Instant;
  /** This rule's nudges in this spell. */
  readonly sent: readonly LoggedNudge[];
  /** All nudges to or about the student so far. */
  readonly all: readonly LoggedNudge[];
}

/** The first limit that refuses; `null` when none does. */
export function refusal(c: LimitCase): WithheldReason | null {
  for (const reason of WITHHELD_REASONS) if (REFUSES[reason](c)) return reason;
  return null;
}

/** Every limit that refuses, in their order: what would be in the way one after the other. */
export const refusals = (c: LimitCase): WithheldReason[] => WITHHELD_REASONS.filter((reason) => REFUSES[reason](c));

const ofRule = (c: LimitCase): LoggedNudge[] =>
  c.all.filter((n) => n.rule === c.rule.id && countsForLimits(n.state) && n.round <= c.round);

const REFUSES: Readonly<Record<WithheldReason, (c: LimitCase) => boolean>> = {
  pending: (c) => c.sent.some((n) => isPending(n.state)),
  perSpell(c) {
    const { perSpell } = c.rule.repeat;
    if (perSpell === null) return false;
    let count = 0;
    for (const n of c.sent) if (n.step === c.step) count++;
    return count >= perSpell;
  },
  perTerm: (c) => c.rule.repeat.perTerm !== null && atLeast(c.rule.repeat.perTerm, ofRule(c).length),
  gap(c) {
    const { gap } = c.rule.repeat;
    return gap !== null && ofRule(c).some((n) => c.round < c.course.calendar.add(n.round, gap));
  },
  paused: (c) => c.student.paused && !c.rule.essential,
  budget: budgetRefuses,
  noAddress(c) {
    const step = c.rule.steps[c.step]!;
    return step.to.includes('student') ? !c.student.email : recipientsOf(step, c.student, c.course).length === 0;
  },
};

const atLeast = (limit: number | null, count: number): boolean => limit !== null && count >= limit;

/** Only first steps that write to the student, of rules that are not essential, are held to the budget (engine R7). */
function budgetRefuses(c: LimitCase): boolean {
  const { budget } = c.course.settings;
  if (!budget || c.rule.essential || c.step > 0 || !c.rule.steps[c.step]!.to.includes('student')) return false;
  return countingForBudget(c).length >= budget.count;
}

/** The nudges that use up the message budget for a first step of this rule at this round; empty without a budget. */
export function countingForBudget(
  c: Pick<LimitCase, 'course' | 'round' | 'all'> & { readonly rule: Weighing },
): LoggedNudge[] {
  const { budget } = c.course.settings;
  if (!budget || c.all.length === 0) return [];
  return c.all.filter(
    (n) =>
      n.toStudent &&
      countsForBudget(n.state) &&
      n.round <= c.round &&
      c.round < c.course.calendar.addDays(n.round, budget.days) &&
      weighsAtLeast(n, c.rule),
  );
}

/** As much of a rule as says how much it weighs; a nudge by hand weighs like a strong one. */
type Weighing = Pick<Rule, 'id' | 'weight'>;

/** Whether an earlier nudge weighs at least as much as the rule (engine R7). */
export const weighsAtLeast = (nudge: LoggedNudge, rule: Weighing): boolean =>
  RULE_WEIGHTS.indexOf(weightIn(nudge, rule)) >= RULE_WEIGHTS.indexOf(rule.weight);

/** How much an earlier nudge weighs beside a rule: its own nudges weigh what it does now, one by hand is strong (engine R7). */
function weightIn(nudge: LoggedNudge, rule: Weighing): RuleWeight {
  if (nudge.rule === null) return 'strong';
  return nudge.rule === rule.id ? rule.weight : (nudge.weight ?? 'normal');
}
