/** Wordings: the list, the words themselves, and a preview for a student before anything is saved. */
import { Router } from 'express';
import { z } from 'zod';
import {
  ABOUT_NOTHING,
  aboutOf,
  parseCondition,
  wordingSchema,
  type About,
  type MailTestAnswer,
  type Message,
  type PreviewAnswer,
  type Rule,
  type WordingAnswer,
} from '@zest-bell/core';
import { accountOf, courseOf } from '../accounts/routes.ts';
import { testMail } from '../course/sender.ts';
import { AppError } from '../platform/errors.ts';
import { parseInput } from '../platform/http.ts';
import type { Em } from '../platform/orm.ts';
import { rowsOf } from '../platform/query.ts';
import type { Services } from '../platform/services.ts';
import { inTransaction } from '../platform/transaction.ts';
import { RuleRow } from '../rules/entity.ts';
import { ruleOfRow } from '../rules/repository.ts';
import { WordingRow } from './entity.ts';
import { compiledOf, insertWording, wordingOfRow } from './repository.ts';

const newSchema = z.strictObject({ wording: z.unknown() });
const changeSchema = z.strictObject({ wording: z.unknown(), version: z.number().int() });
const previewSchema = z.strictObject({
  wording: z.unknown(),
  student: z.string(),
  when: z.unknown(),
  /** Which of its texts. */
  variant: z.number().int().min(0).default(0),
});

export function wordingRoutes({ orm, live, clock, mail }: Services): Router {
  const router = Router({ mergeParams: true });

  router.get('/', async (req, res) => {
    const id = await courseOf(orm, req);
    const em = orm.em.fork();
    const rules = (await em.find(RuleRow, { course: id })).map(ruleOfRow);
    const rows = await em.find(WordingRow, { course: id }, { orderBy: { id: 'asc' } });
    const sent = await sentBy(em, id);
    res.json(rows.map((row) => answerOf(row, rules, sent)));
  });

  router.post('/', async (req, res) => {
    const id = await courseOf(orm, req);
    const { wording: draft } = parseInput(newSchema, req.body);
    const answer = await inTransaction(orm, async (em) => {
      const key = `wording-${crypto.randomUUID().slice(0, 8)}`;
      const given = typeof draft === 'object' && draft !== null ? draft : {};
      const compiled = compiledOf(parseInput(wordingSchema, { ...given, id: key }));
      if (!compiled.ok) throw new AppError('wordingBroken', compiled.problems);
      await insertWording(em, id, compiled.value.wording);
      return answerOf(await wordingRow(em, id, key), [], new Map());
    });
    res.status(201).json(answer);
  });

  router.put('/:wording', async (req, res) => {
    const id = await courseOf(orm, req);
    const input = parseInput(changeSchema, req.body);
    const answer = await inTransaction(orm, async (em) => {
      const row = await wordingRow(em, id, req.params.wording);
      if (row.version !== input.version) throw new AppError('changedMeanwhile');
      const compiled = compiledOf(parseInput(wordingSchema, input.wording));
      if (!compiled.ok) throw new AppError('wordingBroken', compiled.problems);
      const { name, purpose, subject, text, variants = [] } = compiled.value.wording;
      Object.assign(row, { name, purpose, subject, body: text, variants, version: row.version + 1 });
      await em.flush();
      return answerOf(row, (await em.find(RuleRow, { course: id })).map(ruleOfRow), await sentBy(em, id));
    });
    res.json(answer);
  });

  /** What a preview shows, as a mail to oneself. */
  router.post('/test', async (req, res) => {
    const id = await courseOf(orm, req);
    const message = await previewOf(id, parseInput(previewSchema, req.body));
    const em = orm.em.fork();
    const { row } = await live.get(em, id);
    const words = { ...message, subject: `Test: ${message.subject}` };
    const outcome = await mail.send(await testMail(em, accountOf(req), row.sender, words, clock.now()));
    res.json(outcome satisfies MailTestAnswer);
  });

  router.post('/preview', async (req, res) => {
    const id = await courseOf(orm, req);
    const input = parseInput(previewSchema, req.body);
    res.json({ student: input.student, message: await previewOf(id, input) } satisfies PreviewAnswer);
  });

  async function previewOf(id: number, input: z.infer<typeof previewSchema>): Promise<Message> {
    const compiled = compiledOf(parseInput(wordingSchema, input.wording));
    if (!compiled.ok) throw new AppError('wordingBroken', compiled.problems);
    const { facts, course, row } = await live.get(orm.em.fork(), id);
    const person = course.personIndex.get(input.student);
    if (person === undefined) throw new AppError('notFound');
    const of = { facts, person, sender: row.sender, about: aboutOfDraft(input.when), at: clock.now() };
    return compiled.value.render(of, input.variant);
  }

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

/** How many nudges each wording was sent in. */
async function sentBy(em: Em, course: number): Promise<ReadonlyMap<string, number>> {
  const query = em.getKnex()('nudge').select('wording').count({ n: '*' }).where({ course, state: 'sent' });
  const rows = await rowsOf<{ wording: string; n: number }>(em, query.groupBy('wording'));
  return new Map(rows.map((r) => [r.wording, Number(r.n)]));
}

const answerOf = (row: WordingRow, rules: readonly Rule[], sent: ReadonlyMap<string, number>): WordingAnswer => ({
  ...wordingOfRow(row),
  variants: row.variants,
  version: row.version,
  usedBy: rules.filter((r) => r.steps.some((s) => s.wording === row.key)).map((r) => r.name),
  sent: sent.get(row.key) ?? 0,
});
