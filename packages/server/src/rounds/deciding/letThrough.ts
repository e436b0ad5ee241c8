/** A nudge of a rule that an instructor sends to one student although its limits refuse: once, and logged with their name. */
import type { Instant } from '@zest-bell/core/time';
import { explained, letThrough, logOf } from '@zest-bell/core/rounds';
import type { LiveCourses } from '../../course/activity/live.ts';
import { AppError } from '../../platform/errors/errors.ts';
import type { Tx } from '../../platform/database/orm.ts';
import { RuleRow } from '../../rules/entity.ts';
import { ruleOfRow } from '../../rules/repository.ts';
import { WordingRow } from '../../wording/entity.ts';
import { limitLogOf } from './limitLog.ts';
import { storeNudges } from './storeNudges.ts';
import type { Actor } from '@zest-bell/core/access';

export interface PastLimits {
  readonly course: number;
  readonly rule: string;
  readonly student: string;
  /** The wording that is sent; the step’s own unless another is chosen. */
  readonly wording: string | null;
  /** The name of who sends it. */
  readonly by: Actor;
  readonly now: Instant;
}

/** Why nothing could be sent, as a sentence with what to do. */
const WHY: Readonly<Record<string, string>> = {
  noMatch: 'The student no longer matches this rule, so there is nothing to write about',
  pending: 'A message to this student is already on its way or waiting for you',
  paused: 'The student paused nudges. Only rules that are essential still write to them',
  noAddress: 'The student has no email address. Add one first',
  courseOver: 'The course is over, and nothing is sent after its last day',
};

/** Queues the nudge, and gives its id. Throws `notFound`, `ruleOff` or `notReachable`. */
export async function sendPastLimits(
  em: Tx<'course'>,
  live: LiveCourses,
  order: PastLimits,
): Promise<readonly number[]> {
  const row = await em.findOne(RuleRow, { course: order.course, key: order.rule });
  if (!row) throw new AppError('notFound');
  if (row.status !== 'on') throw new AppError('ruleOff');
  const course = await live.get(em, order.course);
  const rule = ruleOfRow(row);
  const logged = await limitLogOf(em, order.course, [row], [order.student]);
  const result = letThrough(rule, order.student, course.facts, logOf(logged), order.now);
  if (!result.ok) {
    const message = WHY[result.why] ?? 'A limit of this rule does not allow it';
    throw new AppError('notReachable', [{ path: 'student', code: result.why, message }]);
  }
  const { decision, passed } = result;
  const wording = order.wording ?? rule.steps[decision.step]!.wording;
  if (!(await em.findOne(WordingRow, { course: order.course, key: wording }))) throw new AppError('notFound');
  const decisions = [explained(decision, rule, course.facts)];
  const stored = await storeNudges(em, course, [{ row, rule, decisions, byHand: { by: order.by, passed, wording } }]);
  return stored.ids;
}
