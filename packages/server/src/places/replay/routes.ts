/** Replay: what rules would have done over the term so far, and how well one finds those whom one worries about. Nothing is sent. */
import { Router } from 'express';
import { z } from 'zod';
import {
  courseProblems,
  evidenceAt,
  hindsightInParts,
  namesOfCondition,
  numbersOf,
  parseCondition,
  parseRule,
  problemsOfNames,
  replayedInParts,
  withNumbers,
  type Course,
  type HindsightAnswer,
  type InParts,
  type NamedTrial,
  type ReplayAnswer,
  type ReplayEvidence,
  type Rule,
  type VariedHindsight,
} from '@zest-bell/core';
import { comingFacts, comingInParts } from './ahead.ts';
import { cameOfCourse, isCameBy } from './outcomes.ts';
import { accountOf, courseOf } from '../../accounts/routes.ts';
import { AppError } from '../../platform/errors.ts';
import { parseInput } from '../../platform/http.ts';
import type { Em } from '../../platform/orm.ts';
import { RuleRow } from '../../rules/entity.ts';
import { readableRule } from '../../rules/repository.ts';
import { trialsOf } from '../wording/trial.ts';
import type { Services } from '../../services.ts';

/** Values that one number may be given in one request. */
const MOST_VALUES = 25;

const replaySchema = z.strictObject({
  /** Null: all rules that are on. */
  rule: z.string().nullable(),
  /** In place of the rule as it is saved. */
  changed: z.unknown().optional(),
});
/** Days ahead. */
const aheadSchema = z.object({ days: z.coerce.number().int().min(1).max(28).default(7) });
const hindsightSchema = z.strictObject({
  rule: z.string(),
  outcome: z.unknown(),
  at: z.number().int(),
  vary: z
    .strictObject({ path: z.string().max(300), values: z.array(z.number()).min(1).max(MOST_VALUES) })
    .nullable()
    .default(null),
});
const evidenceSchema = z.strictObject({
  rule: z.string(),
  changed: z.unknown().optional(),
  student: z.string(),
  at: z.number().int(),
});

export function replayRoutes({ reading, live, clock, longWork }: Services): Router {
  const router = Router({ mergeParams: true });

  router.post('/replay', async (req, res) => {
    const id = await courseOf(reading, req);
    const order = parseInput(replaySchema, req.body);
    const em = reading.em.fork();
    const { course, facts } = await live.get(em, id);
    const rules =
      order.rule === null ? await rulesOn(em, id) : [await ruleOf(em, id, order.rule, order.changed, course)];
    const until = Math.min(clock.now(), course.calendar.end);
    const told = await longWork.run(accountOf(req), res, () => replayedInParts(rules, facts, { until }));
    res.json({ ...told, until } satisfies ReplayAnswer);
  });

  router.get('/replay/outcomes', async (req, res) => {
    const id = await courseOf(reading, req);
    const { by } = req.query;
    const em = reading.em.fork();
    res.json(await cameOfCourse(em, await live.get(em, id), isCameBy(by) ? by : 'rule', clock.now()));
  });

  /** Replayed on from the log as it is. */
  router.get('/replay/ahead', async (req, res) => {
    const id = await courseOf(reading, req);
    const { days } = parseInput(aheadSchema, req.query);
    const em = reading.em.fork();
    const known = await comingFacts(em, await live.get(em, id), clock.now(), days);
    res.json(await longWork.run(accountOf(req), res, () => comingInParts(known)));
  });

  router.get('/replay/trials', async (req, res) => {
    const id = await courseOf(reading, req);
    res.json((await trialsOf(reading.em.fork(), live, id, clock.now())) satisfies NamedTrial[]);
  });

  router.post('/replay/evidence', async (req, res) => {
    const id = await courseOf(reading, req);
    const order = parseInput(evidenceSchema, req.body);
    const em = reading.em.fork();
    const { course, facts } = await live.get(em, id);
    const rule = await ruleOf(em, id, order.rule, order.changed, course);
    const person = course.personIndex.get(order.student);
    if (person === undefined) throw new AppError('notFound');
    const at = Math.min(order.at, clock.now());
    res.json({ evidence: evidenceAt(facts, person, rule.when, at) } satisfies ReplayEvidence);
  });

  router.post('/replay/hindsight', async (req, res) => {
    const id = await courseOf(reading, req);
    const order = parseInput(hindsightSchema, req.body);
    const em = reading.em.fork();
    const { course, facts } = await live.get(em, id);
    const rule = await ruleOf(em, id, order.rule, undefined, course);
    const outcome = parseCondition(order.outcome, 'outcome');
    if (!outcome.ok) throw new AppError('invalidInput', outcome.problems);
    const problems = problemsOfNames(namesOfCondition(outcome.value, 'outcome'), course);
    if (problems.length > 0) throw new AppError('invalidInput', problems);
    // What has not happened yet is no hindsight.
    const at = Math.min(order.at, clock.now(), course.calendar.end);
    const { vary } = order;
    const number = vary && numbersOf(rule, course).find((n) => n.path === vary.path);
    if (vary && !number) {
      const message = 'This rule has no such number. Choose another number to vary';
      throw new AppError('invalidInput', [{ path: 'vary.path', code: 'unknown', message }]);
    }
    const answer = await longWork.run(accountOf(req), res, function* (): InParts<HindsightAnswer> {
      const hindsight = yield* hindsightInParts(rule, outcome.value, facts, { at });
      const varied: VariedHindsight[] = [];
      for (const value of vary?.values ?? []) {
        const other = withNumbers(rule, course, new Map([[vary!.path, value]]));
        const seen = yield* hindsightInParts(other, outcome.value, facts, { at });
        const { counts, shareFound, shareRight, leadDays } = seen;
        varied.push({ value, counts, shareFound, shareRight, lead: leadDays?.median ?? null });
        yield;
      }
      return { hindsight, varied };
    });
    res.json(answer);
  });

  return router;
}

async function rulesOn(em: Em, course: number): Promise<Rule[]> {
  const rows = await em.find(RuleRow, { course, status: 'on', archivedAt: null }, { orderBy: { position: 'asc' } });
  return rows.flatMap((row) => readableRule(row) ?? []);
}

/** A rule as if it had been on from the beginning, whatever it is now; or what it was changed to. Throws `notFound`, `invalidInput`. */
async function ruleOf(em: Em, course: number, key: string, changed: unknown, of: Course): Promise<Rule> {
  const row = await em.findOne(RuleRow, { course, key });
  const saved = row && readableRule(row);
  if (!saved) throw new AppError('notFound');
  if (changed === undefined) return { ...saved, status: 'on', spellsFrom: null };
  const parsed = parseRule(changed);
  if (!parsed.ok) throw new AppError('invalidInput', parsed.problems);
  const problems = courseProblems(parsed.value, of);
  if (problems.length > 0) throw new AppError('invalidInput', problems);
  return { ...parsed.value, id: key, status: 'on', spellsFrom: null };
}
