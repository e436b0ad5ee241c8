/** What waits of a person's own sending by hand: seen on every page, taken back, or sent at once. */
import { Router } from 'express';
import { z } from 'zod';
import { MOST_SEND_DELAY, type SendingResult, nameIn } from '@zest-bell/core';
import { Account } from '../accounts/entity.ts';
import { accountOf, idOf } from '../accounts/routes.ts';
import { MessageRow, NudgeRow } from '../nudges/entity.ts';
import type { Dispatcher } from '../outbox/dispatcher.ts';
import { AppError } from '../platform/errors.ts';
import { parseInput } from '../platform/http.ts';
import { inTransaction } from '../platform/transaction.ts';
import type { Services } from '../services.ts';
import { SendingRow } from './entity.ts';
import { openSendings, sendingAnswer } from './sendings.ts';
import { takeBack } from './takeBack.ts';

const delaySchema = z.strictObject({
  seconds: z.number().int().min(0).max(MOST_SEND_DELAY, `At most ${MOST_SEND_DELAY} seconds`),
});

export function sendingRoutes(services: Services, dispatcher: Dispatcher): Router {
  const { orm, reading, live, clock } = services;
  const router = Router();

  router.get('/sendings', async (req, res) => {
    const rows = await openSendings(reading.em.fork(), clock.now(), { account: accountOf(req) });
    res.json(rows.map(sendingAnswer));
  });

  /** What became of one that has left. */
  router.get('/sendings/:sending', async (req, res) => {
    const em = reading.em.fork();
    const row = await em.findOne(SendingRow, { id: idOf(req.params.sending), account: accountOf(req) });
    if (!row) throw new AppError('notFound');
    const messages = await em.find(MessageRow, { sending: row.id }, { fields: ['nudge', 'state'] });
    const nudges = await em.find(NudgeRow, { id: { $in: messages.map((m) => m.nudge) }, state: 'withdrawn' });
    const { course } = await live.get(em, row.course);
    res.json({
      waiting: messages.filter((m) => m.state === 'queued' || m.state === 'handing').length,
      canceled: nudges.map((n) => {
        return { name: nameIn(course, n.student), reason: n.reason ?? 'noLongerTrue' };
      }),
    } satisfies SendingResult);
  });

  router.post('/sendings/:sending/undo', async (req, res) => {
    const account = accountOf(req);
    const id = idOf(req.params.sending);
    const row = await inTransaction(orm, (em) => takeBack(em, account, id, clock.now()));
    res.json(sendingAnswer(row));
  });

  router.post('/sendings/:sending/now', async (req, res) => {
    const id = idOf(req.params.sending);
    await inTransaction(orm, async (em) => {
      const row = await em.findOne(SendingRow, { id, account: accountOf(req) });
      if (!row) throw new AppError('notFound');
      row.until = Math.min(row.until, Date.now());
      await em.flush();
    });
    await dispatcher.drain().catch(() => undefined);
    res.status(204).end();
  });

  /** How long what this person sends by hand waits; 0 sends at once. */
  router.put('/account/send-delay', async (req, res) => {
    const { seconds } = parseInput(delaySchema, req.body);
    await inTransaction(orm, (em) => em.nativeUpdate(Account, { id: accountOf(req) }, { sendDelay: seconds }));
    res.status(204).end();
  });

  return router;
}
