/** The check before a message leaves later than it was decided (engine R9). */
import { spellAt } from '../../conditions/spells.ts';
import type { Facts } from '../../measures/facts/facts.ts';
import type { Rule } from '../../rules/rule.ts';
import type { Instant } from '../../time/instant.ts';
import type { WithdrawnReason } from './decision.ts';
import type { NudgeLog } from './log.ts';
import { recipientsOf } from './recipients.ts';

/**
 * Why a nudge decided at `round` may not leave at `at`, or null when it may. Without a log, as for one that the instructor approves, a
 * reply stops nothing.
 */
export function secondLook(
  nudge: { rule: Rule; student: string; round: Instant; step: number },
  facts: Facts,
  at: Instant,
  log: Pick<NudgeLog, 'isStopped'> | null = null,
): WithdrawnReason | null {
  const { course } = facts;
  if (at >= course.calendar.end) return 'courseOver';
  if (nudge.rule.status !== 'on') return 'ruleOff';
  const i = course.personIndex.get(nudge.student);
  const student = i === undefined ? undefined : course.people[i];
  if (i === undefined || !student?.active) return 'inactive';
  const spell = spellAt(facts, i, nudge.rule.when, at);
  if (!spell || spell.start > nudge.round) return 'noLongerTrue';
  if (student.paused && !nudge.rule.essential) return 'paused';
  const step = nudge.rule.steps[nudge.step] ?? nudge.rule.steps.at(-1)!;
  const isReached = step.to.includes('student') ? student.email : recipientsOf(step, student, course).length > 0;
  if (!isReached) return 'noAddress';
  return log?.isStopped(nudge.rule, student.id, spell.start, at) ? 'replied' : null;
}
