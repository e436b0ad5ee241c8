/** Rules: what an instructor makes of them — new, changed, on or off, in order, put away. */
import { Router, type Request } from 'express';
import { z } from 'zod';
import { RULE_STATUSES, STARTERS, type RuleCard, type RuleChange, type RuleStatus } from '@zest-bell/core';
import { accountOf, courseOf } from '../../accounts/routes.ts';
import { AppError } from '../../platform/errors.ts';
import { parseInput } from '../../platform/http.ts';
import type { Em } from '../../platform/orm.ts';
import type { Services } from '../../services.ts';
import { inTransaction } from '../../platform/transaction.ts';
import { insertWording } from '../../wording/repository.ts';
import { cards } from './cards.ts';
import { RuleRow } from '../../rules/entity.ts';
import { fittingRule } from '../../rules/fitting.ts';
import {
  archive,
  changeStatus,
  mustHaveTexts,
  mustRender,
  saveEdit,
  unarchive,
  type Change,
} from '../../rules/lifecycle.ts';
import { insertRule, ruleOfRow } from '../../rules/repository.ts';
import { wouldDecide } from '../../rounds/wouldDecide.ts';

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
const restoreSchema = z.strictObject({
  version,
  status: z.enum(RULE_STATUSES).default('paused'),
  confirmed,
  outside,
});

export function ruleRoutes({ orm, reading, live, clock }: Services): Router {
  const router = Router({ mergeParams: true });

  router.get('/', async (req, res) => {
    const id = await courseOf(reading, req);
    const em = reading.em.fork();
    const rows = await em.find(RuleRow, { course: id }, { orderBy: { position: 'asc' } });
    res.json(await cards(em, rows, await live.get(em, id)));
  });

  router.post('/', async (req, res) => {
    const id = await courseOf(reading, req);
    const { rule: draft, starter } = parseInput(newRuleSchema, req.body);
    const answer = await inTransaction(orm, async (em) => {
      const course = await live.get(em, id);
      for (const wording of STARTERS.find((s) => s.id === starter)?.wordings ?? []) {
        await insertWording(em, id, wording);
      }
      const rule = {
        ...fittingRule(draft, course),
        id: `rule-${crypto.randomUUID().slice(0, 8)}`,
        status: 'draft' as const,
      };
      await mustHaveTexts(em, rule, course);
      const row = await insertRule(em, course, rule, accountOf(req), clock.now());
      return (await cards(em, [row], course))[0]!;
    });
    res.status(201).json(answer);
  });

  /** The order in which rules decide. */
  router.post('/order', async (req, res) => {
    const id = await courseOf(reading, req);
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
    const id = await courseOf(reading, req);
    const input = parseInput(statusSchema, req.body);
    if (input.status === 'on')
      await readAhead(
        id,
        input.rules.map((r) => r.rule),
      );
    const answer = await inTransaction(orm, async (em) => {
      const change = await changeOf(em, req, id, input);
      const changes: RuleChange[] = [];
      for (const { rule, version } of input.rules) {
        const row = await ruleRow(em, id, rule, version);
        const before = row.status;
        await changeStatus(em, row, input.status, change, input.newSpellsOnly);
        changes.push(await changed(em, row, change, before));
      }
      return changes;
    });
    res.json(answer);
  });

  router.put('/:rule', async (req, res) => {
    const id = await courseOf(reading, req);
    const input = parseInput(changeSchema, req.body);
    await readAhead(id, [req.params.rule], input.rule);
    const answer = await inTransaction(orm, async (em) => {
      const change = await changeOf(em, req, id, input);
      const row = await ruleRow(em, id, req.params.rule, input.version);
      await saveEdit(em, row, fittingRule(input.rule, change.course), change);
      return changed(em, row, change, row.status);
    });
    res.json(answer);
  });

  /** Put away: it is paused, and no list shows it until it is taken out again. */
  router.post('/:rule/archive', async (req, res) => {
    const id = await courseOf(reading, req);
    const input = parseInput(archiveSchema, req.body);
    const answer = await inTransaction(orm, async (em) => {
      const change = await changeOf(em, req, id, AGREED_TO_NOTHING);
      const row = await ruleRow(em, id, req.params.rule, input.version);
      const before = row.status;
      await archive(em, row, change);
      return changed(em, row, change, before);
    });
    res.json(answer);
  });

  router.post('/:rule/unarchive', async (req, res) => {
    const id = await courseOf(reading, req);
    const input = parseInput(restoreSchema, req.body);
    if (input.status === 'on') await readAhead(id, [req.params.rule]);
    const answer = await inTransaction(orm, async (em) => {
      const change = await changeOf(em, req, id, input);
      const row = await ruleRow(em, id, req.params.rule, input.version);
      const before = row.status;
      await unarchive(em, row, input.status, change);
      return changed(em, row, change, before);
    });
    res.json(answer);
  });

  /**
   * Reads the texts of rules that are to be on, or of one that is on and is edited, before the transaction whose guard asks
   * for it: what is wrong with them the guard says, in its own order.
   */
  async function readAhead(id: number, keys: readonly string[], draft?: unknown): Promise<void> {
    const em = reading.em.fork();
    const course = await live.get(em, id);
    for (const row of await em.find(RuleRow, { course: id, key: { $in: [...keys] } })) {
      if (draft !== undefined && row.status !== 'on') continue;
      try {
        const rule = draft === undefined ? ruleOfRow(row) : fittingRule(draft, course);
        await mustRender(em, rule, course, clock.now());
      } catch {
        continue;
      }
    }
  }

  async function changeOf(
    em: Em,
    req: Request,
    id: number,
    { confirmed, outside }: Pick<Change, 'confirmed' | 'outside'>,
  ): Promise<Change> {
    const course = await live.get(em, id);
    return {
      course,
      now: clock.now(),
      by: accountOf(req),
      confirmed,
      outside,
      decisionsAt: async (rule, at) => (await wouldDecide(em, course, rule, at, clock.now())).decisions,
    };
  }

  return router;
}

const AGREED_TO_NOTHING = { confirmed: false, outside: [] };

async function ruleRow(em: Em, course: number, key: string, version: number): Promise<RuleRow> {
  const row = await em.findOne(RuleRow, { course, key });
  if (!row) throw new AppError('notFound');
  if (row.version !== version) throw new AppError('changedMeanwhile');
  return row;
}

async function changed(em: Em, row: RuleRow, { course }: Change, before: RuleStatus): Promise<RuleChange> {
  const [rule] = (await cards(em, [row], course)) as [RuleCard];
  return { rule, before };
}
