/** One nudge that the instructor sends although limits refuse it: once, on purpose, and logged as such. */
import { spellAt } from '../../conditions/spells.ts';
import type { Facts } from '../../measures/facts/facts.ts';
import type { Rule } from '../../rules/rule.ts';
import type { Instant } from '../../time/instant.ts';
import { inAudience, limitCaseOf } from './decide.ts';
import type { SentDecision } from './decision.ts';
import { limitsRefusing } from './limits.ts';
import { type WithheldReason } from './withheld.ts';
import type { NudgeLog } from './log.ts';
import { firstOpen } from './quietHours.ts';
import { recipientsOf } from './recipients.ts';

/**
 * Whether the instructor may pass a limit for one student: those that spare a student too many messages. A student's own pause is not
 * among them.
 */
const PASSABLE: Readonly<Record<WithheldReason, boolean>> = {
  pending: false,
  perSpell: true,
  perTerm: true,
  gap: true,
  replied: false,
  paused: false,
  budget: true,
  noAddress: false,
};

export type OverrideResult =
  | { readonly ok: true; readonly decision: SentDecision; readonly passed: readonly WithheldReason[] }
  /** `noMatch`: the rule does not find the student now, or no step of it is due. */
  | { readonly ok: false; readonly why: WithheldReason | 'noMatch' | 'courseOver' };

/**
 * The nudge that `rule` would send to the student at `r` if its limits were passed. It goes to the student alone: third parties
 * that the step names get nothing, as the instructor decides about one message to one person. It needs what every nudge
 * does: the condition true, an address, no pause, an open hour.
 */
export function letThrough(rule: Rule, studentId: string, facts: Facts, log: NudgeLog, r: Instant): OverrideResult {
  const { course } = facts;
  const i = course.personIndex.get(studentId) ?? -1;
  const student = course.people[i];
  const spell = student && inAudience(student, rule.audience, course, r) ? spellAt(facts, i, rule.when, r) : null;
  const limits = spell && limitCaseOf(rule, i, spell, facts, log, r);
  if (!limits) return { ok: false, why: 'noMatch' };
  const to = recipientsOf({ to: ['student'] }, limits.student, course);
  if (to.length === 0) return { ok: false, why: 'noAddress' };
  const refusing = limitsRefusing(limits);
  const lasting = refusing.find((reason) => !PASSABLE[reason]);
  if (lasting !== undefined) return { ok: false, why: lasting };
  const sendAt = firstOpen(r, course.settings.quietHours, course);
  if (sendAt >= course.calendar.end) return { ok: false, why: 'courseOver' };
  const of = { rule: rule.id, student: studentId, round: r, step: limits.step, spellStart: spell.start };
  return { ok: true, decision: { ...of, to, outcome: 'sent', reason: null, sendAt }, passed: refusing };
}
