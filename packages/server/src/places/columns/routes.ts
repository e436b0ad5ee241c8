/** One measure of all students as columns: computed once for a state of the course, and not sent again while it is the same. */
import { Router } from 'express';
import { z } from 'zod';
import {
  callKey,
  leavesOf,
  measureColumn,
  momentColumn,
  namesOfCondition,
  packColumn,
  parseCondition,
  problemsOfNames,
  type Course,
  type MeasureCall,
} from '@zest-bell/core';
import { courseOf } from '../../accounts/routes.ts';
import { AppError } from '../../platform/errors.ts';
import { parseInput, sendColumns } from '../../platform/http.ts';
import type { Services } from '../../services.ts';

const querySchema = z.object({
  /** A measure with its parameters, as JSON. */
  call: z.string().max(20_000),
  /** The instant whose facts are wanted; the values are over all time. */
  at: z.coerce.number().int().min(-8.64e15).max(8.64e15),
  /** Only the values at that instant, without facts: for the table of a large class. */
  only: z.stringbool().default(false),
});

export function columnRoutes({ reading, live }: Services): Router {
  const router = Router({ mergeParams: true });

  router.get('/columns', async (req, res) => {
    const id = await courseOf(reading, req);
    const query = parseInput(querySchema, req.query);
    const { course, facts, row } = await live.get(reading.em.fork(), id);
    const call = callOf(query.call, course);
    const state = [id, row.version, facts.history.version, query.at, query.only, callKey(call)];
    const column = query.only ? momentColumn : measureColumn;
    sendColumns(req, res, state, () => packColumn(column(call, facts, query.at)));
  });

  return router;
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
