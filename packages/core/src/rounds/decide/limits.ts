/** Why a nudge is withheld (engine R6): the limits in their order, the first that refuses is the reason. */
import type { Course } from '../../course/course.ts';
import type { Person } from '../../course/person.ts';
import { countsForBudget, countsForLimits, isPending } from '../../nudges/message.ts';
import { RULE_WEIGHTS, type Rule, type RuleWeight } from '../../rules/rule.ts';
import type { Instant } from '../../time/instant.ts';
import type { LoggedNudge } from './log.ts';
import { recipientsOf } from './recipients.ts';
import { WITHHELD_REASONS, type WithheldReason } from './withheld.ts';

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
  /** The rule stops at a reply, and the student replied to it in this spell. */
  readonly hasReplied: boolean;
}

/** The first limit that refuses; `null` when none does. */
export function firstLimitRefusing(c: LimitCase): WithheldReason | null {
  for (const { reason, refuses } of IN_ORDER) if (refuses(c)) return reason;
  return null;
}

/** Every limit that refuses, in their order: what would be in the way one after the other. */
export const limitsRefusing = (c: LimitCase): WithheldReason[] =>
  WITHHELD_REASONS.filter((reason) => REFUSES[reason](c));

const isWaiting = (n: LoggedNudge): boolean => isPending(n.state);
const isOfStep = (n: LoggedNudge, c: LimitCase): boolean => n.step === c.step;
/** This rule's nudges to the student, of any spell. */
const isOfRule = (n: LoggedNudge, c: LimitCase): boolean =>
  n.rule === c.rule.id && countsForLimits(n.state) && n.round <= c.round;
const isInGap = (n: LoggedNudge, c: LimitCase): boolean =>
  isOfRule(n, c) && c.round < c.course.calendar.add(n.round, c.rule.repeat.gap!);

const REFUSES: Readonly<Record<WithheldReason, (c: LimitCase) => boolean>> = {
  pending: (c) => atLeast(1, c.sent, isWaiting, c),
  perSpell(c) {
    const { perSpell } = c.rule.repeat;
    return perSpell !== null && atLeast(perSpell, c.sent, isOfStep, c);
  },
  perTerm(c) {
    const { perTerm } = c.rule.repeat;
    return perTerm !== null && atLeast(perTerm, c.all, isOfRule, c);
  },
  gap(c) {
    return c.rule.repeat.gap !== null && atLeast(1, c.all, isInGap, c);
  },
  replied: (c) => c.hasReplied,
  paused: (c) => c.student.paused && !c.rule.essential,
  budget: budgetRefuses,
  noAddress(c) {
    const step = c.rule.steps[c.step]!;
    return step.to.includes('student') ? !c.student.email : recipientsOf(step, c.student, c.course).length === 0;
  },
};

const IN_ORDER = WITHHELD_REASONS.map((reason) => ({ reason, refuses: REFUSES[reason] }));

/** Whether so many of the nudges count. Without a function of its own for each case, as rounds look at thousands. */
function atLeast<C>(
  limit: number,
  nudges: readonly LoggedNudge[],
  counts: (n: LoggedNudge, c: C) => boolean,
  c: C,
): boolean {
  let left = limit;
  for (let i = 0; left > 0 && i < nudges.length; i++) if (counts(nudges[i]!, c)) left--;
  return left <= 0;
}

/**
 * Steps that write to the student, of rules that are not essential, are held to the budget: first steps, and all of them where
 * it is strict (engine R7).
 */
function budgetRefuses(c: LimitCase): boolean {
  const { budget } = c.course.settings;
  if (!budget || c.rule.essential || !c.rule.steps[c.step]!.to.includes('student')) return false;
  if (c.step > 0 && !budget.strict) return false;
  return atLeast(budget.count, c.all, usesBudget, c);
}

/** The nudges that use up the message budget for a first step of this rule at this round; empty without a budget. */
export function countingForBudget(c: BudgetCase): LoggedNudge[] {
  const { budget } = c.course.settings;
  return budget ? c.all.filter((n) => usesBudget(n, c)) : [];
}

const usesBudget = (n: LoggedNudge, c: BudgetCase): boolean =>
  n.toStudent &&
  countsForBudget(n.state) &&
  n.round <= c.round &&
  c.round < c.course.calendar.addDays(n.round, c.course.settings.budget!.days) &&
  (c.course.settings.budget!.strict === true || weighsAtLeast(n, c.rule));

type BudgetCase = Pick<LimitCase, 'course' | 'round' | 'all'> & { readonly rule: WeighedRule };

/** As much of a rule as says how much it weighs; a nudge by hand weighs like a strong one. */
type WeighedRule = Pick<Rule, 'id' | 'weight'>;

/** Whether an earlier nudge weighs at least as much as the rule (engine R7). */
export const weighsAtLeast = (nudge: LoggedNudge, rule: WeighedRule): boolean =>
  RULE_WEIGHTS.indexOf(weightIn(nudge, rule)) >= RULE_WEIGHTS.indexOf(rule.weight);

/** How much an earlier nudge weighs beside a rule: its own nudges weigh what it does now, one by hand is strong (engine R7). */
function weightIn(nudge: LoggedNudge, rule: WeighedRule): RuleWeight {
  if (nudge.rule === null) return 'strong';
  return nudge.rule === rule.id ? rule.weight : (nudge.weight ?? 'normal');
}
