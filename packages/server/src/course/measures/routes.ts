/** One measure of all students as columns: computed once for a state of the course, and not sent again while it is the same. */
import type { Course } from '@zest-bell/core/course';
import { callKey, measureColumn, momentColumn, packColumn, type MeasureCall } from '@zest-bell/core/measures';
import { leavesOf, namesOfCondition, parseCondition } from '@zest-bell/core/conditions';
import { problemsOfNames } from '@zest-bell/core/rules';
import { SENT, contract } from '@zest-bell/core/contract';
import type { Door } from '../../access/door.ts';
import { AppError } from '../../platform/errors/errors.ts';
import { sendColumns } from '../../platform/http/http.ts';
import type { CourseServices } from '../services.ts';

export function columnRoutes(door: Door, { reading, live }: CourseServices): void {
  door.on(contract.desk.columns, async ({ course: id, query, req, res }) => {
    const { course, facts, row } = await live.get(reading.em.fork(), id);
    const call = callOf(query.call, course);
    const state = [id, row.version, facts.history.version, query.at, query.only, callKey(call)];
    const column = query.only ? momentColumn : measureColumn;
    sendColumns(req, res, state, () => packColumn(column(call, facts, query.at)));
    return SENT;
  });
}

/** Reads a measure with its parameters, by the schema of a condition on it. Throws `invalidInput`. */
function callOf(text: string, course: Course): MeasureCall {
  let draft: unknown;
  try {
    draft = JSON.parse(text);
  } catch {
    draft = null;
  }
  const parsed = parseCondition(
    typeof draft === 'object' && draft !== null ? { ...draft, is: 'filled' } : null,
    'call',
  );
  if (!parsed.ok) throw new AppError('invalidInput', parsed.problems);
  const problems = problemsOfNames(namesOfCondition(parsed.value, 'call'), course);
  if (problems.length > 0) throw new AppError('invalidInput', problems);
  const { is: _is, value: _value, ...call } = leavesOf(parsed.value)[0]!;
  return call;
}
