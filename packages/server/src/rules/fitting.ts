/** What a rule needs before it is stored or tried. */
import { courseProblems, parseRule, type Rule } from '@zest-bell/core/rules';
import type { LiveCourse } from '../course/activity/live.ts';
import { AppError } from '../platform/errors/errors.ts';

/** A rule that fits its course. Throws every problem of it. */
export function fittingRule(draft: unknown, { course }: LiveCourse): Rule {
  const parsed = parseRule(draft, 'rule');
  if (!parsed.ok) throw new AppError('invalidInput', parsed.problems);
  const problems = courseProblems(parsed.value, course, 'rule');
  if (problems.length > 0) throw new AppError('invalidInput', problems);
  return parsed.value;
}
