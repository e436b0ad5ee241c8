/** Wordings: the list, the words themselves, and a preview for a student before anything is saved. */
import { Router } from 'express';
import { z } from 'zod';
import {
  ABOUT_NOTHING,
  aboutOf,
  parseCondition,
  wordingSchema,
  type About,
  type PreviewAnswer,
  type Rule,
  type WordingAnswer,
} from '@zest-bell/core';
import { courseOf } from '../accounts/routes.ts';
import { AppError } from '../platform/errors.ts';
import { parseInput } from '../platform/http.ts';
import type { Em } from '../platform/orm.ts';
import type { Services } from '../platform/services.ts';
import { inTransaction } from '../platform/transaction.ts';
import { RuleRow } from '../rules/entity.ts';
import { ruleOfRow } from '../rules/repository.ts';
import { WordingRow } from './entity.ts';
import { compiledOf, wordingOfRow } from './repository.ts';

const changeSchema = z.strictObject({ wording: z.unknown(), version: z.number().int() });
const previewSchema = z.strictObject({ wording: z.unknown(), student: z.string(), when: z.unknown() });

export function wordingRoutes({ orm, live, clock }: Services): Router {
  const router = Router({ mergeParams: true });

  router.get('/', async (req, res) => {
    const id = await courseOf(orm, req);
    const em = orm.em.fork();
    const rules = (await em.find(RuleRow, { course: id })).map(ruleOfRow);
    const rows = await em.find(WordingRow, { course: id }, { orderBy: { id: 'asc' } });
    res.json(rows.map((row) => answerOf(row, rules)));
  });

  router.put('/:wording', async (req, res) => {
    const id = await courseOf(orm, req);
    const input = parseInput(changeSchema, req.body);
    const answer = await inTransaction(orm, async (em) => {
      const row = await wordingRow(em, id, req.params.wording);
      if (row.version !== input.version) throw new AppError('changedMeanwhile');
      const compiled = compiledOf(parseInput(wordingSchema, input.wording));
      if (!compiled.ok) throw new AppError('wordingBroken', compiled.problems);
      const { name, purpose, subject, text } = compiled.value.wording;
      Object.assign(row, { name, purpose, subject, body: text, version: row.version + 1 });
      await em.flush();
      return answerOf(row, (await em.find(RuleRow, { course: id })).map(ruleOfRow));
    });
    res.json(answer);
  });

  router.post('/preview', async (req, res) => {
    const id = await courseOf(orm, req);
    const input = parseInput(previewSchema, req.body);
    const compiled = compiledOf(parseInput(wordingSchema, input.wording));
    if (!compiled.ok) throw new AppError('wordingBroken', compiled.problems);
    const { facts, course, row } = await live.get(orm.em.fork(), id);
    const person = course.personIndex.get(input.student);
    if (person === undefined) throw new AppError('notFound');
    const of = { facts, person, sender: row.sender, about: aboutOfDraft(input.when), at: clock.now() };
    res.json({ student: input.student, message: compiled.value.render(of) } satisfies PreviewAnswer);
  });

  return router;
}

/** A condition being drafted may not fit yet: then the text is about nothing. */
function aboutOfDraft(when: unknown): About {
  const parsed = parseCondition(when);
  return parsed.ok ? aboutOf(parsed.value) : ABOUT_NOTHING;
}

async function wordingRow(em: Em, course: number, key: string): Promise<WordingRow> {
  const row = await em.findOne(WordingRow, { course, key });
  if (!row) throw new AppError('notFound');
  return row;
}

const answerOf = (row: WordingRow, rules: readonly Rule[]): WordingAnswer => ({
  ...wordingOfRow(row),
  version: row.version,
  usedBy: rules.filter((r) => r.steps.some((s) => s.wording === row.key)).map((r) => r.name),
});
