/** What the limits of a round are counted from: the nudges and answers of the students it is about, and of nobody else. */
import type { Instant } from '@zest-bell/core/time';
import type { Facts } from '@zest-bell/core/measures';
import type { Rule } from '@zest-bell/core/rules';
import { countedByAny, countedFrom, matchesAt, type LimitLog } from '@zest-bell/core/rounds';
import type { LiveCourse } from '../../course/activity/live.ts';
import { changedRules, loggedNudges } from '../../mail/nudges/log.ts';
import type { Em } from '../../platform/database/orm.ts';
import { answersOf } from '../../mail/replies/answers.ts';
import type { RuleRow } from '../../rules/entity.ts';
import { earlierConditions } from '../../rules/repository.ts';

/** For rounds of these rules at an instant: one indexed query on those who match. */
export async function limitLogAt(
  em: Em,
  course: LiveCourse,
  rows: readonly RuleRow[],
  rules: readonly Rule[],
  at: Instant,
): Promise<LimitLog> {
  const matching = new Set(rules.flatMap((rule) => matchesAt(rule, course.facts, at)));
  const students = [...matching].map((i) => course.course.people[i]!.id);
  return limitLogOf(em, course.id, rows, students);
}

/**
 * For a rule that is being composed, of which nobody knows yet whom it will match: all nudges of the rule itself, and of any
 * rule what the message budget may still count.
 */
export async function limitLogForDraft(
  em: Em,
  course: LiveCourse,
  row: RuleRow | null,
  at: Instant,
): Promise<LimitLog> {
  const { budget } = course.course.settings;
  const since = budget ? course.course.calendar.addDays(at, -budget.days) : null;
  const nudges = await loggedNudges(em, course.id, row ? [row] : [], { rule: row?.key ?? null, since });
  return { nudges, replies: row ? await answersOf(em, course.id, null) : [] };
}

/** For all rounds from an instant on, no matter whom they are about; under each of several courses where there are several. */
export async function limitLogFrom(
  em: Em,
  course: number,
  rows: readonly RuleRow[],
  rules: readonly Rule[],
  from: Instant,
  facts: readonly Facts[],
): Promise<LimitLog> {
  const earlier = await earlierConditions(em, rows);
  const changed = changedRules(earlier);
  const counted = countedByAny(facts.map((one) => countedFrom(rules, one, from, changed)));
  const nudges = await loggedNudges(em, course, rows, { counted }, earlier);
  return { nudges, replies: await answersOf(em, course, null) };
}

/** Of these students. */
export async function limitLogOf(
  em: Em,
  course: number,
  rows: readonly RuleRow[],
  students: readonly string[],
): Promise<LimitLog> {
  return { nudges: await loggedNudges(em, course, rows, { students }), replies: await answersOf(em, course, students) };
}
