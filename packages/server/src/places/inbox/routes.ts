/** The inbox over all courses, what is done about a reply, and hints for the week. */
import { Router } from 'express';
import { z } from 'zod';
import { DIGESTS, hintsFor, type Hint, type InboxAnswer } from '@zest-bell/core';
import { Account } from '../../accounts/entity.ts';
import { accountName, accountOf, courseOf, idOf } from '../../accounts/routes.ts';
import type { Dispatcher } from '../../outbox/dispatcher.ts';
import { parseInput } from '../../platform/http.ts';
import { rowsOf } from '../../platform/query.ts';
import { inTransaction } from '../../platform/transaction.ts';
import { ReplyRow } from '../../replies/entity.ts';
import { answerReply, settleReply } from '../../replies/settle.ts';
import { beginSending, leave, sendingAnswer } from '../../sendings/sendings.ts';
import type { Services } from '../../services.ts';
import { nextDigestAt } from './digest.ts';
import { countFalling, coursesOf, OPEN_REPLY, openReplies, readInbox } from './inbox.ts';

const digestSchema = z.strictObject({ digest: z.enum(DIGESTS) });
const answerSchema = z.strictObject({
  text: z.string().trim().min(1, 'Type your answer').max(20_000, 'An answer has at most 20,000 characters'),
});
const settleSchema = z.strictObject({ settled: z.boolean() });

/** What belongs to a person and not to one course. */
export function inboxRoutes(services: Services): Router {
  const { orm, reading, longWork, clock } = services;
  const router = Router();

  router.get('/inbox', async (req, res) => {
    const em = reading.em.fork();
    const id = accountOf(req);
    const read = await readInbox(em, services, id);
    const courses = await longWork.run(id, res, () => countFalling(read));
    const { digest } = await em.findOneOrFail(Account, { id });
    res.json({ courses, replies: await openReplies(em, read), digest } satisfies InboxAnswer);
  });

  router.put('/inbox/digest', async (req, res) => {
    const { digest } = parseInput(digestSchema, req.body);
    const id = accountOf(req);
    const [first] = await coursesOf(reading.em.fork(), id);
    const zone = first === undefined ? 'UTC' : (await services.live.get(reading.em.fork(), first)).course.timeZone;
    const digestAt = nextDigestAt(digest, clock.now(), zone);
    await inTransaction(orm, (em) => em.nativeUpdate(Account, { id }, { digest, digestAt }));
    res.status(204).end();
  });

  return router;
}

/** How long an answer waits for the mail that it set off, in ms. */
const PATIENCE = 3000;

export function replyRoutes(services: Services, dispatcher: Dispatcher): Router {
  const { orm, reading, live, clock } = services;
  const router = Router({ mergeParams: true });

  router.post('/replies/:reply/answer', async (req, res) => {
    const course = await courseOf(reading, req);
    const { text } = parseInput(answerSchema, req.body);
    const [account, reply, now] = [accountOf(req), idOf(req.params.reply), clock.now()];
    const began = await inTransaction(orm, async (em) => {
      const sending = await beginSending(em, {
        ...{ account, course, kind: 'answer', words: 'your answer', now, takeBack: { reply } },
      });
      const by = await accountName(em, account);
      await answerReply(em, { course, reply, text, now, by, sending: sending?.id ?? null });
      return sending;
    });
    await leave(services, dispatcher, began, PATIENCE);
    res.json({ sending: began && sendingAnswer(began) });
  });

  router.put('/replies/:reply', async (req, res) => {
    const course = await courseOf(reading, req);
    const { settled } = parseInput(settleSchema, req.body);
    await inTransaction(orm, async (em) => {
      const by = await accountName(em, accountOf(req));
      await settleReply(em, { course, reply: idOf(req.params.reply), by, now: clock.now() }, settled);
    });
    res.status(204).end();
  });

  router.get('/hints', async (req, res) => {
    const id = await courseOf(reading, req);
    const em = reading.em.fork();
    const { facts } = await live.get(em, id);
    const sent = await rowsOf<{ student: string; at: number }>(
      em,
      em
        .getKnex()('nudge')
        .where({ course: id, to_student: true })
        .whereIn('state', ['sent', 'uncertain'])
        .groupBy('student')
        .select('student')
        .max({ at: 'round_at' }),
    );
    const waiting = await em.find(
      ReplyRow,
      { course: id, ...OPEN_REPLY, student: { $ne: null } },
      { fields: ['student'] },
    );
    const known = {
      lastSent: new Map(sent.map((s) => [s.student, Number(s.at)])),
      waiting: new Set(waiting.map((r) => r.student!)),
    };
    res.json(hintsFor(facts, known, clock.now()) satisfies Hint[]);
  });

  return router;
}
