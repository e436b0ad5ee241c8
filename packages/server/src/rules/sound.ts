/** What a rule needs before it is stored, turned on or rung. */
import { courseProblems, parseRule, type Problem, type Rule } from '@zest-bell/core';
import type { LiveCourse } from '../activity/live.ts';
import { AppError } from '../platform/errors.ts';
import type { Em } from '../platform/orm.ts';
import { loadWordings, strangers } from '../wording/repository.ts';

/** A rule that fits its course, or every problem of it. */
export function soundRule(draft: unknown, { course }: LiveCourse): Rule {
  const parsed = parseRule(draft, 'rule');
  if (!parsed.ok) throw new AppError('invalidInput', parsed.problems);
  const problems = courseProblems(parsed.value, course, 'rule');
  if (problems.length > 0) throw new AppError('invalidInput', problems);
  return parsed.value;
}

/** The wordings of the course. Nothing is turned on, rung or saved that could not be rendered: the problem is said before anything is sent. */
export async function wordingsMustRender(
  em: Em,
  rule: Rule,
  course: LiveCourse,
): Promise<Awaited<ReturnType<typeof loadWordings>>> {
  const wordings = await loadWordings(em, course.id);
  const problems: Problem[] = [];
  for (const [i, step] of rule.steps.entries()) {
    const wording = wordings(step.wording);
    const found = wording.ok ? await strangers(em, wording.value, course) : wording.problems;
    problems.push(...found.map((p) => ({ ...p, path: `rule.steps[${i}].wording.${p.path}` })));
  }
  if (problems.length > 0) throw new AppError('wordingBroken', problems);
  return wordings;
}
