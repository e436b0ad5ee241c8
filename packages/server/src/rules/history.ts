/** What a rule was and what it did: its versions, and every past round with its decisions. */
import { Router } from 'express';
import { z } from 'zod';
import {
  evidenceAt,
  type LoggedReason,
  type MessageState,
  type PastRoundAnswer,
  type PastRoundLine,
  type RuleVersionAnswer,
  type WithheldReason,
} from '@zest-bell/core';
import { Account } from '../accounts/entity.ts';
import { courseOf } from '../accounts/routes.ts';
import { NudgeRow, RefusalRow } from '../nudges/entity.ts';
import { AppError } from '../platform/errors.ts';
import { parseInput } from '../platform/http.ts';
import type { Em } from '../platform/orm.ts';
import type { Services } from '../platform/services.ts';
import { RoundRow } from '../rounds/entity.ts';
import { summaryOf } from './cards.ts';
import { RuleRow, RuleVersionRow } from './entity.ts';
import { readDocument } from './repository.ts';

const roundSchema = z.coerce.number().int();

export function ruleHistoryRoutes({ orm, live }: Services): Router {
  const router = Router({ mergeParams: true });

  router.get('/:rule/versions', async (req, res) => {
    const em = orm.em.fork();
    const row = await ruleOf(em, await courseOf(orm, req), req.params.rule);
    const versions = await em.find(RuleVersionRow, { rule: row.id }, { orderBy: { version: 'desc' } });
    const accounts = await em.find(Account, { id: { $in: versions.flatMap((v) => v.savedBy ?? []) } });
    const names = new Map(accounts.map((a) => [a.id, a.name]));
    res.json(
      versions.map((v): RuleVersionAnswer => ({
        version: v.version,
        savedAt: v.savedAt,
        by: v.savedBy == null ? null : (names.get(v.savedBy) ?? null),
        rule: readDocument(v.document, row.format),
      })),
    );
  });

  router.get('/:rule/rounds', async (req, res) => {
    const id = await courseOf(orm, req);
    const em = orm.em.fork();
    const row = await ruleOf(em, id, req.params.rule);
    const rounds = await em.find(RoundRow, { course: id }, { orderBy: { at: 'desc', id: 'desc' } });
    res.json(
      rounds.flatMap((round): PastRoundLine[] => {
        const result = round.results.find((r) => r.rule === row.key);
        return result ? [{ id: round.id, ...summaryOf(round, result) }] : [];
      }),
    );
  });

  router.get('/:rule/rounds/:round', async (req, res) => {
    const id = await courseOf(orm, req);
    const em = orm.em.fork();
    const row = await ruleOf(em, id, req.params.rule);
    const round = await em.findOne(RoundRow, { id: parseInput(roundSchema, req.params.round), course: id });
    const result = round?.results.find((r) => r.rule === row.key);
    if (!round || !result) throw new AppError('notFound');
    const nudges = await em.find(
      NudgeRow,
      { course: id, rule: row.key, roundAt: round.at },
      { orderBy: { id: 'asc' } },
    );
    const written = new Set(nudges.map((n) => n.student));
    const refusals = await em.find(
      RefusalRow,
      { course: id, rule: row.key, firstRound: { $lte: round.at }, lastRound: { $gte: round.at } },
      { orderBy: { id: 'asc' } },
    );
    const course = await live.get(em, id);
    const version = await em.findOneOrFail(RuleVersionRow, { rule: row.id, version: result.version });
    const { when } = readDocument(version.document, row.format);
    // A refusal is one line over many rounds, so its evidence is read off the history at this one (engine H3).
    const evidence = (student: string) => {
      const person = course.course.personIndex.get(student);
      return person === undefined ? [] : evidenceAt(course.facts, person, when, round.at);
    };
    res.json({
      id: round.id,
      round: summaryOf(round, result),
      nudges: nudges.map((n) => ({
        nudge: n.id,
        student: n.student,
        state: n.state as MessageState,
        reason: (n.reason ?? null) as LoggedReason | null,
        step: n.step,
        evidence: n.evidence,
      })),
      withheld: oneAStudent(refusals.filter((r) => !written.has(r.student))).map((r) => ({
        student: r.student,
        reason: r.reason as WithheldReason,
        step: r.step,
        evidence: evidence(r.student),
        rounds: r.rounds,
      })),
    } satisfies PastRoundAnswer);
  });

  return router;
}

/** Refusals are kept as one line a spell and limit; where several span a round, the one that began last was in force. */
function oneAStudent(refusals: readonly RefusalRow[]): RefusalRow[] {
  const latest = new Map<string, RefusalRow>();
  for (const r of refusals) {
    const known = latest.get(r.student);
    if (!known || r.firstRound >= known.firstRound) latest.set(r.student, r);
  }
  return [...latest.values()];
}

async function ruleOf(em: Em, course: number, key: string): Promise<RuleRow> {
  const row = await em.findOne(RuleRow, { course, key });
  if (!row) throw new AppError('notFound');
  return row;
}
