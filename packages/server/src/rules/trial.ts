/** Trying a rule: the facts behind its live reach, its rehearsal, starters as they would be here, and ring now. */
import { Router } from 'express';
import { z } from 'zod';
import {
  aboutOf,
  leavesOf,
  matchesAt,
  nextVariant,
  parseCondition,
  reachFacts,
  replay,
  roundsOf,
  ruleSentence,
  STARTERS,
  type MeasureCall,
  type PastAnswer,
  type Problem,
  type ReachFacts,
  type RehearsalAnswer,
  type RingAnswer,
  type Rule,
  type StarterAnswer,
} from '@zest-bell/core';
import { courseOf } from '../accounts/routes.ts';
import type { LiveCourse } from '../activity/live.ts';
import { isStale } from '../course/standing.ts';
import { loggedFacts } from '../nudges/log.ts';
import type { Dispatcher } from '../outbox/dispatcher.ts';
import { AppError } from '../platform/errors.ts';
import { parseInput } from '../platform/http.ts';
import type { Em } from '../platform/orm.ts';
import type { Services } from '../platform/services.ts';
import { ring } from '../rounds/scheduler.ts';
import { summaryOf } from './cards.ts';
import { RuleRow } from './entity.ts';
import { decisionsAt, mustNotReachMany } from './guard.ts';
import { ruleOfRow } from './repository.ts';
import { soundRule, wordingsMustRender } from './sound.ts';
import { filesOf } from '../wording/sending.ts';
import { lastKey, lastVariants } from '../wording/repository.ts';

const rehearseSchema = z.strictObject({ rule: z.unknown(), at: z.number().int().optional() });
const reachSchema = z.strictObject({
  conditions: z.array(z.unknown()).min(1).max(50),
  at: z.number().int().optional(),
});
const pastSchema = z.strictObject({ rule: z.unknown() });
const ringSchema = z.strictObject({ confirmed: z.boolean().default(false) });

/** How long an answer waits for the mail it set off, in ms. */
const PATIENCE = 1500;

export function trialRoutes(services: Services, dispatcher: Dispatcher): Router {
  const { orm, live, clock, logger } = services;
  const failed = (error: unknown) => logger.error({ err: error }, 'mail of a rung round was not sent');
  const router = Router({ mergeParams: true });

  router.get('/starters', async (req, res) => {
    const id = await courseOf(orm, req);
    const course = await live.get(orm.em.fork(), id);
    const now = clock.now();
    res.json(
      STARTERS.map((s): StarterAnswer => {
        const built = s.build(course.course, now);
        if (!built.ok) return { id: s.id, sentence: null, matching: 0, needs: built.needs };
        const matching = matchesAt(built.rule, course.facts, now).length;
        return { id: s.id, sentence: ruleSentence(built.rule, course.course), matching, needs: null };
      }),
    );
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
    const logged = await loggedFacts(em, id, rows);
    res.json(reachFacts(calls, course.facts, logged, input.at ?? clock.now()) satisfies ReachFacts);
  });

  router.post('/rehearse', async (req, res) => {
    const id = await courseOf(orm, req);
    const input = parseInput(rehearseSchema, req.body);
    const em = orm.em.fork();
    const course = await live.get(em, id);
    const rule = soundRule(input.rule, course);
    res.json(await rehearse(em, rule, course, input.at ?? clock.now()));
  });

  /** What the rule would have done so far, had it been on since its first day with no other beside it. */
  router.post('/past', async (req, res) => {
    const id = await courseOf(orm, req);
    const input = parseInput(pastSchema, req.body);
    const em = orm.em.fork();
    const course = await live.get(em, id);
    const rule = { ...soundRule(input.rule, course), status: 'on' as const, spellsFrom: null };
    res.json(pastOf(rule, course, clock.now()));
  });

  router.post('/:rule/ring', async (req, res) => {
    const id = await courseOf(orm, req);
    const { confirmed } = parseInput(ringSchema, req.body ?? {});
    const em = orm.em.fork();
    const course = await live.get(em, id);
    const row = await em.findOne(RuleRow, { course: id, key: req.params.rule });
    if (!row) throw new AppError('notFound');
    if (row.status !== 'on') throw new AppError('ruleOff');
    const now = clock.now();
    if (now >= course.course.calendar.end) throw new AppError('courseOver');
    if (course.row.stoppedAt != null) throw new AppError('mailStopped');
    if (isStale(course.row, now)) throw new AppError('dataStale');
    await wordingsMustRender(em, ruleOfRow(row), course);
    if (!confirmed) {
      const rows = await em.find(RuleRow, { course: id });
      mustNotReachMany(ruleOfRow(row), course, await loggedFacts(em, id, rows), now);
    }
    const round = await ring(services, id, row);
    if (!round) throw new AppError('busy');
    // A few messages are gone at once; many go on while the page shows how far they are.
    await Promise.race([dispatcher.drain().catch(failed), new Promise((late) => setTimeout(late, PATIENCE))]);
    res.json({ round: summaryOf(round, round.results[0]!) } satisfies RingAnswer);
  });

  return router;
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

/** The same function as a round, with no effect; what would leave is rendered as it would leave (engine R10). */
async function rehearse(em: Em, rule: Rule, course: LiveCourse, at: number): Promise<RehearsalAnswer> {
  const wordings = await wordingsMustRender(em, rule, course);
  const rows = await em.find(RuleRow, { course: course.id });
  const last = await lastVariants(em, course.id);
  const { matching, decisions } = decisionsAt(rule, course, await loggedFacts(em, course.id, rows), at);
  return {
    at,
    matching,
    nudges: decisions.map((decision) => {
      if (decision.outcome === 'withheld') return { decision, messages: [] };
      const wording = wordings(rule.steps[decision.step]!.wording);
      if (!wording.ok) return { decision, messages: [] };
      const person = course.course.personIndex.get(decision.student)!;
      const of = { facts: course.facts, person, sender: course.row.sender, about: aboutOf(rule.when), at };
      const before = last.get(lastKey(wording.value.wording.id, decision.student)) ?? null;
      const variant = nextVariant(wording.value.count, before, decision.student);
      const messages = decision.to.map((to) => {
        const reader = { name: to.name || to.address };
        const message = wording.value.render({ ...of, reader }, variant, to.reader);
        return { to, message, files: filesOf({ wording: wording.value, message }, to.kind === 'student') };
      });
      return { decision, messages };
    }),
  };
}

function pastOf(rule: Rule, { course, facts }: LiveCourse, now: number): PastAnswer {
  const rounds = roundsOf([rule], facts, { until: now });
  const written = replay([rule], facts, { until: now }).filter((d) => d.outcome === 'sent' || d.outcome === 'held');
  const byDay = new Map<number, number>();
  for (const d of written) {
    const day = course.calendar.dayNumber(d.round);
    byDay.set(day, (byDay.get(day) ?? 0) + 1);
  }
  return {
    from: rounds[0]?.at ?? now,
    rounds: rounds.length,
    nudges: written.length,
    students: new Set(written.map((d) => d.student)).size,
    busiest: Math.max(0, ...byDay.values()),
  };
}
