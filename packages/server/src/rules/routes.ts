/** Rules: the list, changes, status, the facts behind the live reach, rehearsal and ring now. */
import { Router } from 'express';
import { z } from 'zod';
import {
  courseProblems,
  decide,
  aboutOf,
  leavesOf,
  matchesAt,
  NudgeLog,
  parseCondition,
  parseRule,
  reachFacts,
  RULE_STATUSES,
  ruleSentence,
  type MeasureCall,
  type Problem,
  type ReachFacts,
  type RehearsalAnswer,
  type RingAnswer,
  type RoundSummary,
  type Rule,
  type RuleCard,
  type RuleChange,
} from '@zest-bell/core';
import { accountOf, courseOf } from '../accounts/routes.ts';
import type { LiveCourse } from '../activity/live.ts';
import { loggedNudges } from '../nudges/log.ts';
import type { Dispatcher } from '../outbox/dispatcher.ts';
import { AppError } from '../platform/errors.ts';
import { parseInput } from '../platform/http.ts';
import type { Em } from '../platform/orm.ts';
import { rowsOf } from '../platform/query.ts';
import type { Services } from '../platform/services.ts';
import { RoundRow, type RoundResult } from '../rounds/entity.ts';
import { ring } from '../rounds/scheduler.ts';
import { loadWordings } from '../wording/repository.ts';
import { RuleRow } from './entity.ts';
import { insertRule, ruleOfRow, updateRule, withStatus } from './repository.ts';
import { inTransaction } from '../platform/transaction.ts';

const newRuleSchema = z.strictObject({ rule: z.unknown() });
const changeSchema = z.strictObject({ rule: z.unknown(), version: z.number().int() });
const statusSchema = z.strictObject({ status: z.enum(RULE_STATUSES), version: z.number().int() });
const rehearseSchema = z.strictObject({ rule: z.unknown(), at: z.number().int().optional() });
const reachSchema = z.strictObject({
  conditions: z.array(z.unknown()).min(1).max(50),
  at: z.number().int().optional(),
});

export function ruleRoutes(services: Services, dispatcher: Dispatcher): Router {
  const { orm, live, clock } = services;
  const router = Router({ mergeParams: true });

  router.get('/', async (req, res) => {
    const id = await courseOf(orm, req);
    const em = orm.em.fork();
    const rows = await em.find(RuleRow, { course: id }, { orderBy: { position: 'asc' } });
    res.json(await cards(em, rows, await live.get(em, id)));
  });

  router.post('/', async (req, res) => {
    const id = await courseOf(orm, req);
    const { rule: draft } = parseInput(newRuleSchema, req.body);
    const answer = await inTransaction(orm, async (em) => {
      const course = await live.get(em, id);
      const rule = {
        ...soundRule(draft, course),
        id: `rule-${crypto.randomUUID().slice(0, 8)}`,
        status: 'draft' as const,
      };
      await wordingsMustRender(em, rule, course);
      const row = await insertRule(em, course, rule, accountOf(req), clock.now());
      return (await cards(em, [row], course))[0]!;
    });
    res.status(201).json(answer);
  });

  router.put('/:rule', async (req, res) => {
    const id = await courseOf(orm, req);
    const input = parseInput(changeSchema, req.body);
    const answer = await inTransaction(orm, async (em) => {
      const course = await live.get(em, id);
      const row = await ruleRow(em, id, req.params.rule, input.version);
      const old = ruleOfRow(row);
      const rule = { ...soundRule(input.rule, course), id: row.key, status: old.status };
      await wordingsMustRender(em, rule, course);
      await updateRule(em, row, course.course, rule, accountOf(req), clock.now());
      return change(em, row, course, old);
    });
    res.json(answer);
  });

  router.post('/:rule/status', async (req, res) => {
    const id = await courseOf(orm, req);
    const { status, version } = parseInput(statusSchema, req.body);
    const answer = await inTransaction(orm, async (em) => {
      const course = await live.get(em, id);
      const row = await ruleRow(em, id, req.params.rule, version);
      const old = ruleOfRow(row);
      if (status === 'on') await wordingsMustRender(em, old, course);
      await updateRule(em, row, course.course, withStatus(old, status), accountOf(req), clock.now());
      return change(em, row, course, old);
    });
    res.json(answer);
  });

  router.post('/reach', async (req, res) => {
    const id = await courseOf(orm, req);
    const input = parseInput(reachSchema, req.body);
    const em = orm.em.fork();
    const course = await live.get(em, id);
    const problems: Problem[] = [];
    const calls = input.conditions.flatMap((draft, i): MeasureCall[] => {
      const parsed = parseCondition(draft, `conditions[${i}]`);
      if (parsed.ok) return [...leavesOf(parsed.value)];
      problems.push(...parsed.problems);
      return [];
    });
    problems.push(...unknownItems(calls, course));
    if (problems.length > 0) throw new AppError('invalidInput', problems);
    const rows = await em.find(RuleRow, { course: id });
    const nudges = await loggedNudges(em, id, rows);
    res.json(reachFacts(calls, course.facts, nudges, input.at ?? clock.now()) satisfies ReachFacts);
  });

  router.post('/rehearse', async (req, res) => {
    const id = await courseOf(orm, req);
    const input = parseInput(rehearseSchema, req.body);
    const em = orm.em.fork();
    const course = await live.get(em, id);
    const rule = soundRule(input.rule, course);
    res.json(await rehearse(em, rule, course, input.at ?? clock.now()));
  });

  router.post('/:rule/ring', async (req, res) => {
    const id = await courseOf(orm, req);
    const em = orm.em.fork();
    const course = await live.get(em, id);
    const row = await em.findOne(RuleRow, { course: id, key: req.params.rule });
    if (!row) throw new AppError('notFound');
    if (row.status !== 'on') throw new AppError('ruleOff');
    if (clock.now() >= course.course.calendar.end) throw new AppError('courseOver');
    await wordingsMustRender(em, ruleOfRow(row), course);
    const round = await ring(services, id, row);
    if (!round) throw new AppError('busy');
    await dispatcher.drain();
    res.json({ round: summaryOf(round, round.results[0]!) } satisfies RingAnswer);
  });

  return router;
}

/** A rule that fits its course, or every problem of it. */
function soundRule(draft: unknown, { course }: LiveCourse): Rule {
  const parsed = parseRule(draft, 'rule');
  if (!parsed.ok) throw new AppError('invalidInput', parsed.problems);
  const problems = courseProblems(parsed.value, course, 'rule');
  if (problems.length > 0) throw new AppError('invalidInput', problems);
  return parsed.value;
}

/** The wordings of the course. Nothing is turned on, rung or saved that could not be rendered: the problem is said before anything is sent. */
async function wordingsMustRender(
  em: Em,
  rule: Rule,
  course: LiveCourse,
): Promise<Awaited<ReturnType<typeof loadWordings>>> {
  const wordings = await loadWordings(em, course.id);
  const problems = rule.steps.flatMap((step, i) => {
    const wording = wordings(step.wording);
    if (wording.ok) return [];
    return wording.problems.map((p) => ({ ...p, path: `rule.steps[${i}].wording.${p.path}` }));
  });
  if (problems.length > 0) throw new AppError('wordingBroken', problems);
  return wordings;
}

function unknownItems(calls: readonly MeasureCall[], { course }: LiveCourse): Problem[] {
  return calls.flatMap((call, i) =>
    [call.item, ...(call.items ?? [])]
      .filter((id) => id !== undefined && !course.itemIndex.has(id))
      .map((id) => ({
        path: `conditions[${i}].item`,
        code: 'notInCourse',
        message: `There is no item “${id}” in this course`,
      })),
  );
}

async function ruleRow(em: Em, course: number, key: string, version: number): Promise<RuleRow> {
  const row = await em.findOne(RuleRow, { course, key });
  if (!row) throw new AppError('notFound');
  if (row.version !== version) throw new AppError('changedMeanwhile');
  return row;
}

/** The same function as a round, with no effect; what would leave is rendered as it would leave (engine R10). */
async function rehearse(em: Em, rule: Rule, course: LiveCourse, at: number): Promise<RehearsalAnswer> {
  const wordings = await wordingsMustRender(em, rule, course);
  const rows = await em.find(RuleRow, { course: course.id });
  const log = new NudgeLog(await loggedNudges(em, course.id, rows));
  return {
    at,
    matching: matchesAt(rule, course.facts, at).length,
    nudges: decide([rule], course.facts, log, at).map((decision) => {
      if (decision.outcome === 'withheld') return { decision, message: null };
      const wording = wordings(rule.steps[decision.step]!.wording);
      if (!wording.ok) return { decision, message: null };
      const person = course.course.personIndex.get(decision.student)!;
      const of = { facts: course.facts, person, sender: course.row.sender, about: aboutOf(rule.when), at };
      return { decision, message: wording.value.render(of) };
    }),
  };
}

async function change(em: Em, row: RuleRow, course: LiveCourse, old: Rule): Promise<RuleChange> {
  return { rule: (await cards(em, [row], course))[0]!, before: old.status };
}

export function summaryOf(round: RoundRow, result: RoundResult): RoundSummary {
  const { rule: _rule, ...counts } = result;
  return { at: round.at, trigger: round.trigger as RoundSummary['trigger'], ...counts };
}

async function cards(em: Em, rows: readonly RuleRow[], { id, course }: LiveCourse): Promise<RuleCard[]> {
  const rounds = await em.find(RoundRow, { course: id }, { orderBy: { at: 'desc', id: 'desc' }, limit: 400 });
  const counted = em.getKnex()('nudge').select('rule').count({ n: '*' }).where({ course: id, state: 'sent' });
  const sent = await rowsOf<{ rule: string; n: number }>(em, counted.groupBy('rule'));
  return rows.map((row) => {
    const rule = ruleOfRow(row);
    const round = rounds.find((r) => r.results.some((x) => x.rule === row.key));
    return {
      rule,
      version: row.version,
      sentence: ruleSentence(rule, course),
      nextRoundAt: row.nextRoundAt ?? null,
      lastRound: round
        ? summaryOf(
            round,
            round.results.find((x) => x.rule === row.key)!,
          )
        : null,
      sentInAll: Number(sent.find((s) => s.rule === row.key)?.n ?? 0),
    };
  });
}
