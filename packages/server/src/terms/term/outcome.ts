/** The outcome that a term is read for. */
import { namesOfCondition, parseCondition, type Condition } from '@zest-bell/core/conditions';
import { problemsOfNames } from '@zest-bell/core/rules';
import { AppError } from '../../platform/errors/errors.ts';

/** Throws `invalidInput`. */
export function outcomeOf(draft: unknown, course: Parameters<typeof problemsOfNames>[1]): Condition {
  const outcome = parseCondition(draft, 'outcome');
  if (!outcome.ok) throw new AppError('invalidInput', outcome.problems);
  const problems = problemsOfNames(namesOfCondition(outcome.value, 'outcome'), course);
  if (problems.length > 0) throw new AppError('invalidInput', problems);
  return outcome.value;
}
