/** What a rule was and what it did: its versions, and every past round with its decisions. */
import { z } from 'zod';
import { evidenceAt } from '@zest-bell/core/conditions';
import type { PastRoundAnswer, PastRoundLine, RuleVersionAnswer } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import { Account } from '../../access/entity.ts';
import type { Door } from '../../access/door.ts';
import { NudgeRow, RefusalRow } from '../../mail/nudges/entity.ts';
import { reasonsOfRule } from '../../course/reasons.ts';
import { AppError } from '../../platform/errors/errors.ts';
import { parseInput } from '../../platform/http/http.ts';
import type { Em } from '../../platform/database/orm.ts';
import type { IntakeServices } from '../../intake/services.ts';
import { CarryRow } from '../../rules/carried.ts';
import { RoundRow } from '../../rounds/deciding/entity.ts';
import { summaryOf } from './cards.ts';
import { RuleRow, RuleVersionRow } from '../../rules/entity.ts';
import { readDocument } from '../../rules/repository.ts';

const roundSchema = z.coerce.number().int().max(Number.MAX_SAFE_INTEGER);
/** Rounds of one answer; earlier ones are asked for by the id of the last. */
const PAGE = 500;

export function ruleHistoryRoutes(door: Door, { reading, live }: IntakeServices): void {
  door.on(contract.rules.versions, async ({ course, path }) => {
    const em = reading.em.fork();
    const row = await ruleOf(em, course, path.rule);
    const versions = await em.find(RuleVersionRow, { rule: row.id }, { orderBy: { version: 'desc' } });
    const accounts = await em.find(Account, { id: { $in: versions.flatMap((v) => v.savedBy ?? []) } });
    const names = new Map(accounts.map((a) => [a.id, a.name]));
    const why = await reasonsOfRule(em, course, row.key);
    const carried = await em.find(CarryRow, { course, undoneAt: null }, { disableIdentityMap: true });
    const origin = carried.find((c) => c.along.rules.some((r) => r.rule === row.key))?.sourceCode ?? null;
    return versions.map((v): RuleVersionAnswer => ({
      version: v.version,
      savedAt: v.savedAt,
      by: v.savedBy == null ? null : (names.get(v.savedBy) ?? null),
      rule: readDocument(v.document, row.format, v.status),
      carriedFrom: v.version === 1 ? origin : null,
      why: why.get(v.version) ?? null,
    }));
  });

  door.on(contract.rules.rounds, async ({ course: id, query: { before }, path }) => {
    const em = reading.em.fork();
    const row = await ruleOf(em, id, path.rule);
    const rounds = await em.find(
      RoundRow,
      { course: id, rule: row.key, ...(before === undefined ? {} : { id: { $lt: before } }) },
      { orderBy: { at: 'desc', id: 'desc' }, limit: PAGE },
    );
    return rounds.map((round): PastRoundLine => ({ id: round.id, ...summaryOf(round) }));
  });

  door.on(contract.rules.round, async ({ course: id, path }) => {
    const em = reading.em.fork();
    const row = await ruleOf(em, id, path.rule);
    const round = await em.findOne(RoundRow, { id: parseInput(roundSchema, path.round), course: id, rule: row.key });
    if (!round) throw new AppError('notFound');
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
    const version = await em.findOneOrFail(RuleVersionRow, { rule: row.id, version: round.version });
    const { when } = readDocument(version.document, row.format, version.status);
    // A refusal is one line over many rounds, so its evidence is read off the history at this one (engine H3).
    const evidence = (student: string) => {
      const person = course.course.personIndex.get(student);
      return person === undefined ? [] : evidenceAt(course.facts, person, when, round.at);
    };
    return {
      id: round.id,
      round: summaryOf(round),
      nudges: nudges.map((n) => ({
        nudge: n.id,
        student: n.student,
        state: n.state,
        reason: n.reason ?? null,
        step: n.step,
        evidence: n.evidence,
      })),
      withheld: oneAStudent(refusals.filter((r) => !written.has(r.student))).map((r) => ({
        student: r.student,
        reason: r.reason,
        step: r.step,
        evidence: evidence(r.student),
        rounds: r.rounds,
      })),
    } satisfies PastRoundAnswer;
  });
}

/** Refusals in rounds that follow one another are one line; where two touch a round, the one that began last was in force. */
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
