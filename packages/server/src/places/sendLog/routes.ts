/** The send log, and the instructor's word about messages that wait or went wrong. */
import { Router, type Request } from 'express';
import { z } from 'zod';
import { textResults, type OutcomesAnswer } from '@zest-bell/core';
import { courseOf, idOf } from '../../accounts/routes.ts';
import type { LiveCourse } from '../../activity/live.ts';
import { approve, dismiss, settleByHand } from '../../outbox/approval.ts';
import { MessageRow, NudgeRow } from '../../nudges/entity.ts';
import type { Dispatcher } from '../../outbox/dispatcher.ts';
import { AppError } from '../../platform/errors.ts';
import { parseInput } from '../../platform/http.ts';
import type { Em } from '../../platform/orm.ts';
import type { Services } from '../../services.ts';
import { inTransaction } from '../../platform/transaction.ts';
import { grouped, sentTexts } from '../../replies/sentTexts.ts';
import { ruleNames } from '../../rules/repository.ts';
import { detailOf } from './detail.ts';
import { logAnswer, logQuerySchema, withheldLines, type LogOf } from './query.ts';

const decideSchema = z.strictObject({
  as: z.enum(['send', 'dismiss']),
  /** Which of the nudge's messages: what a button says is what happens. */
  messages: z.array(z.number().int()).min(1).max(100),
});
const settleSchema = z.strictObject({ as: z.enum(['arrived', 'sendAgain']) });

/** How long an answer waits for the mail that it set off, in ms. */
const PATIENCE = 1500;

export function sendLogRoutes({ orm, reading, live, clock, logger }: Services, dispatcher: Dispatcher): Router {
  const router = Router({ mergeParams: true });

  const logOf = async (em: Em, id: number): Promise<LogOf & { readonly live: LiveCourse }> => {
    const known = await live.get(em, id);
    return { id, course: known.course, rules: await ruleNames(em, id), live: known };
  };
  const detail = async (id: number, nudge: number) => {
    const em = orm.em.fork();
    const row = await em.findOne(NudgeRow, { id: nudge, course: id });
    if (!row) throw new AppError('notFound');
    return detailOf(em, row, await logOf(em, id));
  };
  /** What was decided is saved: mail that fails for another reason is no failure of the decision. */
  const sendNow = () =>
    Promise.race([
      dispatcher.drain().catch((error: unknown) => logger.error({ err: error }, 'mail that was set off has failed')),
      new Promise((late) => setTimeout(late, PATIENCE)),
    ]);

  router.get('/', async (req, res) => {
    const id = await courseOf(reading, req);
    const query = parseInput(logQuerySchema, req.query);
    const em = reading.em.fork();
    res.json(await logAnswer(em, await logOf(em, id), query));
  });

  router.get('/withheld', async (req, res) => {
    const id = await courseOf(reading, req);
    const query = parseInput(logQuerySchema, req.query);
    const em = reading.em.fork();
    res.json(await withheldLines(em, await logOf(em, id), query));
  });

  /** Who came back and who replied, as counts with their whole. */
  router.get('/outcomes', async (req, res) => {
    const id = await courseOf(reading, req);
    const em = reading.em.fork();
    const now = clock.now();
    const sent = await sentTexts(em, await live.get(em, id), now);
    const rules = [...grouped(sent, (n) => n.rule)].map(([rule, of]) => [rule, textResults(of, 1, now).all]);
    res.json({
      all: textResults(sent, 1, now).all,
      rules: Object.fromEntries(rules) as OutcomesAnswer['rules'],
    } satisfies OutcomesAnswer);
  });

  router.get('/:nudge', async (req, res) => {
    const id = await courseOf(reading, req);
    res.json(await detail(id, idOf(req.params.nudge)));
  });

  /** A yes or no to messages that wait, each by itself. A yes is a hand-over: the second look comes first (engine R9). */
  router.post('/:nudge/decide', async (req, res) => {
    const id = await courseOf(reading, req);
    const { as, messages } = parseInput(decideSchema, req.body);
    const nudge = idOf(req.params.nudge);
    await inTransaction(orm, async (em) => {
      const rows = await em.find(MessageRow, { course: id, nudge, id: { $in: messages } });
      if (rows.length !== new Set(messages).size) throw new AppError('notFound');
      const { row } = await live.get(em, id);
      if (as === 'send') await approve(em, rows, row.sender, clock.now());
      else await dismiss(em, rows, clock.now());
    });
    if (as === 'send') await sendNow();
    res.json(await detail(id, nudge));
  });

  /** What the instructor found out about a message that is unclear, or that one that failed goes again. */
  router.post('/messages/:message/settle', async (req: Request<{ message: string }>, res) => {
    const id = await courseOf(reading, req);
    const { as } = parseInput(settleSchema, req.body);
    const nudge = await inTransaction(orm, async (em) => {
      const message = await em.findOne(MessageRow, { id: idOf(req.params.message), course: id });
      if (!message) throw new AppError('notFound');
      await settleByHand(em, message, as, clock.now());
      return message.nudge;
    });
    if (as === 'sendAgain') await sendNow();
    res.json(await detail(id, nudge));
  });

  return router;
}
