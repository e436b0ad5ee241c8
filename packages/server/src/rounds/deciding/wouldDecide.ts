/** What a rule would decide at an instant, as things are and with no effect (engine R10). */
import type { Instant } from '@zest-bell/core/time';
import type { Rule } from '@zest-bell/core/rules';
import {
  comingNudges,
  decide,
  logOf,
  matchesAt,
  rulesBefore,
  nudgeInTheWay,
  type Decision,
  type LoggedNudge,
  type TakenBy,
} from '@zest-bell/core/rounds';
import type { LiveCourse } from '../../course/activity/live.ts';
import type { Em } from '../../platform/database/orm.ts';
import { readableRules, rowsOn } from '../../rules/repository.ts';
import { limitLogAt, limitLogFrom } from './limitLog.ts';
import { RuleRow } from '../../rules/entity.ts';

export interface RoundPreview {
  readonly matching: number;
  readonly decisions: readonly Decision[];
  /** What used up the message budget of the students held back, by student. */
  readonly taken: Readonly<Record<string, TakenBy>>;
}

/** The rules that are on have their rounds before it, in their order, if nobody does anything until then. */
export async function wouldDecide(
  em: Em,
  course: LiveCourse,
  rule: Rule,
  at: Instant,
  now: Instant,
): Promise<RoundPreview> {
  const rows = await em.find(RuleRow, { course: course.id, key: rule.id });
  const logged = await limitLogAt(em, course, rows, [rule], at);
  const coming = await nudgesToCome(em, course, rule.id, at, now);
  const log = logOf({ ...logged, nudges: [...logged.nudges, ...coming] });
  const decisions = decide([rule], course.facts, log, at);
  const taken: Record<string, TakenBy> = {};
  for (const d of decisions) {
    const by = d.reason === 'budget' ? nudgeInTheWay(rule, d.student, course.facts, log, at) : null;
    if (by) taken[d.student] = { rule: by.rule, at: by.round, coming: by.coming === true };
  }
  return { matching: matchesAt(rule, course.facts, at).length, decisions, taken };
}

/** What other rules that are on will have decided before the rule has its turn at `at`. */
export async function nudgesToCome(
  em: Em,
  { id, facts }: LiveCourse,
  rule: string,
  at: Instant,
  now: Instant,
): Promise<LoggedNudge[]> {
  const rows = await rowsOn(em, id);
  const turn = { rules: readableRules(rows), rule, now, at };
  const before = rulesBefore(turn, facts);
  if (before.length === 0) return [];
  const logged = await limitLogFrom(em, id, rows, before, now + 1, [facts]);
  return comingNudges(turn, facts, logged);
}
