/** Rules: what an instructor makes of them — new, changed, on or off, in order, put away. */
import { Router } from 'express';
import { z } from 'zod';
import {
  RULE_STATUSES,
  STARTERS,
  type Instant,
  type Rule,
  type RuleCard,
  type RuleChange,
  type RuleStatus,
} from '@zest-bell/core';
import { accountOf, courseOf } from '../accounts/routes.ts';
import type { LiveCourse } from '../activity/live.ts';
import { loggedFacts } from '../nudges/log.ts';
import { AppError } from '../platform/errors.ts';
import { parseInput } from '../platform/http.ts';
import type { Em } from '../platform/orm.ts';
import type { Services } from '../platform/services.ts';
import { inTransaction } from '../platform/transaction.ts';
import { insertWording } from '../wording/repository.ts';
import { cards } from './cards.ts';
import { RuleRow } from './entity.ts';
import { mustKnowOutside, mustNotReachMany, nextLook } from './guard.ts';
import { insertRule, ruleOfRow, updateRule, withStatus } from './repository.ts';
import { soundRule, wordingsMustRender } from './sound.ts';

const version = z.number().int();
/** A yes to writing to more of the class than passes without a question. */
const confirmed = z.boolean().default(false);
/** Addresses outside the institution that may be written to: named to the instructor, who said yes. */
const outside = z.array(z.string().max(320)).max(2000).default([]);
const newRuleSchema = z.strictObject({
  rule: z.unknown(),
  /** The starter it began as, whose words the course may not have yet. */
  starter: z.string().optional(),
});
const changeSchema = z.strictObject({ rule: z.unknown(), version, confirmed, outside });
const statusSchema = z.strictObject({
  rules: z
    .array(z.strictObject({ rule: z.string(), version }))
    .min(1)
    .max(200),
  status: z.enum(RULE_STATUSES),
  confirmed,
  outside,
  /** Turned on for spells that start from now on alone, or for all; left out, as it was. */
  newSpellsOnly: z.boolean().optional(),
});
const orderSchema = z.strictObject({ rules: z.array(z.string()).max(1000) });
const archiveSchema = z.strictObject({ version });
const restoreSchema = z.strictObject({ version, status: z.enum(RULE_STATUSES).default('paused') });

export function ruleRoutes({ orm, live, clock }: Services): Router {
  const router = Router({ mergeParams: true });

  router.get('/', async (req, res) => {
    const id = await courseOf(orm, req);
    const em = orm.em.fork();
    const rows = await em.find(RuleRow, { course: id }, { orderBy: { position: 'asc' } });
    res.json(await cards(em, rows, await live.get(em, id)));
  });

  router.post('/', async (req, res) => {
    const id = await courseOf(orm, req);
    const { rule: draft, starter } = parseInput(newRuleSchema, req.body);
    const answer = await inTransaction(orm, async (em) => {
      const course = await live.get(em, id);
      for (const wording of STARTERS.find((s) => s.id === starter)?.wordings ?? []) {
        await insertWording(em, id, wording);
      }
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

  /** The order in which rules decide. */
  router.post('/order', async (req, res) => {
    const id = await courseOf(orm, req);
    const { rules } = parseInput(orderSchema, req.body);
    const answer = await inTransaction(orm, async (em) => {
      const rows = await em.find(RuleRow, { course: id }, { orderBy: { position: 'asc' } });
      const byKey = new Map(rows.map((r) => [r.key, r]));
      const named = rules.flatMap((key) => byKey.get(key) ?? []);
      if (new Set(rules).size !== rules.length || named.length !== rules.length) throw new AppError('notFound');
      // What the list did not name keeps its order, behind what it did.
      const rest = rows.filter((r) => !rules.includes(r.key));
      [...named, ...rest].forEach((row, position) => (row.position = position));
      await em.flush();
      return cards(em, [...named, ...rest], await live.get(em, id));
    });
    res.json(answer);
  });

  /** One or several at once: all of them change, or none. */
  router.post('/status', async (req, res) => {
    const id = await courseOf(orm, req);
    const input = parseInput(statusSchema, req.body);
    const answer = await inTransaction(orm, async (em) => {
      const course = await live.get(em, id);
      const changes: RuleChange[] = [];
      for (const of of input.rules) {
        const row = await ruleRow(em, id, of.rule, of.version);
        const old = ruleOfRow(row);
        const rule = switched(old, input.status, input.newSpellsOnly, clock.now());
        if (input.status === 'on') {
          if (row.archivedAt != null) throw new AppError('ruleArchived');
          mustKnowOutside(rule, course, row, input.outside);
          await mayWrite(em, rule, course, input.confirmed, clock.now());
        }
        await updateRule(em, row, course.course, rule, accountOf(req), clock.now());
        changes.push(await change(em, row, course, old));
      }
      return changes;
    });
    res.json(answer);
  });

  router.put('/:rule', async (req, res) => {
    const id = await courseOf(orm, req);
    const input = parseInput(changeSchema, req.body);
    const answer = await inTransaction(orm, async (em) => {
      const course = await live.get(em, id);
      const row = await ruleRow(em, id, req.params.rule, input.version);
      const old = ruleOfRow(row);
      const rule = { ...soundRule(input.rule, course), id: row.key, status: old.status };
      if (rule.status === 'on') {
        mustKnowOutside(rule, course, row, input.outside);
        await mayWrite(em, rule, course, input.confirmed, clock.now());
      } else await wordingsMustRender(em, rule, course);
      await updateRule(em, row, course.course, rule, accountOf(req), clock.now());
      return change(em, row, course, old);
    });
    res.json(answer);
  });

  /** Put away: it is paused, and stands in no list until it is taken out again. */
  router.post('/:rule/archive', async (req, res) => {
    const id = await courseOf(orm, req);
    const input = parseInput(archiveSchema, req.body);
    const answer = await inTransaction(orm, async (em) => {
      const course = await live.get(em, id);
      const row = await ruleRow(em, id, req.params.rule, input.version);
      const old = ruleOfRow(row);
      row.archivedAt = clock.now();
      const status = old.status === 'on' ? 'paused' : old.status;
      await updateRule(em, row, course.course, withStatus(old, status), accountOf(req), clock.now());
      return change(em, row, course, old);
    });
    res.json(answer);
  });

  router.post('/:rule/unarchive', async (req, res) => {
    const id = await courseOf(orm, req);
    const input = parseInput(restoreSchema, req.body);
    const answer = await inTransaction(orm, async (em) => {
      const course = await live.get(em, id);
      const row = await ruleRow(em, id, req.params.rule, input.version);
      const old = ruleOfRow(row);
      row.archivedAt = null;
      await updateRule(em, row, course.course, withStatus(old, input.status), accountOf(req), clock.now());
      return change(em, row, course, old);
    });
    res.json(answer);
  });

  return router;
}

function switched(rule: Rule, status: RuleStatus, newSpellsOnly: boolean | undefined, now: Instant): Rule {
  const next = withStatus(rule, status);
  return newSpellsOnly === undefined ? next : { ...next, spellsFrom: newSpellsOnly ? now : null };
}

/** Whether a rule may be on as it is: its words can be rendered, and it reaches not too many without a yes. */
async function mayWrite(em: Em, rule: Rule, course: LiveCourse, yes: boolean, now: Instant): Promise<void> {
  await wordingsMustRender(em, rule, course);
  if (yes) return;
  const rows = await em.find(RuleRow, { course: course.id });
  mustNotReachMany(rule, course, await loggedFacts(em, course.id, rows), nextLook(rule, course, now));
}

async function ruleRow(em: Em, course: number, key: string, version: number): Promise<RuleRow> {
  const row = await em.findOne(RuleRow, { course, key });
  if (!row) throw new AppError('notFound');
  if (row.version !== version) throw new AppError('changedMeanwhile');
  return row;
}

async function change(em: Em, row: RuleRow, course: LiveCourse, old: Rule): Promise<RuleChange> {
  const [rule] = (await cards(em, [row], course)) as [RuleCard];
  return { rule, before: old.status };
}
