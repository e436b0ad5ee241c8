/** What a rule would decide at an instant, as things are and with no effect (engine R10). */
import { decide, logOf, matchesAt, type Decision, type Instant, type Rule } from '@zest-bell/core';
import type { LiveCourse } from '../activity/live.ts';
import type { Em } from '../platform/orm.ts';
import { limitFactsAt } from './limitFacts.ts';
import { RuleRow } from '../rules/entity.ts';

export async function wouldDecide(
  em: Em,
  course: LiveCourse,
  rule: Rule,
  at: Instant,
): Promise<{ matching: number; decisions: Decision[] }> {
  const rows = await em.find(RuleRow, { course: course.id, key: rule.id });
  const log = logOf(await limitFactsAt(em, course, rows, [rule], at));
  return { matching: matchesAt(rule, course.facts, at).length, decisions: decide([rule], course.facts, log, at) };
}
