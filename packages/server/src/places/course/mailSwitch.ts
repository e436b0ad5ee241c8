/** One switch over all mail of a course: while it is off nothing leaves and no round is held. */
import { Router } from 'express';
import { z } from 'zod';
import { MISSED_CHOICES, STARTING_ANEW, type Instant, type StandingAnswer } from '@zest-bell/core';
import { Account } from '../../accounts/entity.ts';
import { accountOf, courseOf } from '../../accounts/routes.ts';
import { move } from '../../nudges/transitions.ts';
import { tryAgainNow } from '../../outbox/mailTrouble.ts';
import type { Dispatcher } from '../../outbox/dispatcher.ts';
import { parseInput } from '../../platform/http.ts';
import type { Em } from '../../platform/orm.ts';
import { rowsOf } from '../../platform/query.ts';
import type { Services } from '../../services.ts';
import { inTransaction } from '../../platform/transaction.ts';
import { runDueRounds } from '../../rounds/scheduler.ts';
import { RuleRow } from '../../rules/entity.ts';
import { nextRoundOf, ruleOfRow } from '../../rules/repository.ts';
import { CourseRow } from '../../course/entity.ts';
import { standingOf } from './standing.ts';

const startSchema = z.strictObject({ queued: z.enum(STARTING_ANEW), missed: z.enum(MISSED_CHOICES) });

export function mailSwitchRoutes(services: Services, dispatcher: Dispatcher): Router {
  const { orm, reading, live, clock } = services;
  const router = Router({ mergeParams: true });

  const standing = (em: Em, id: number): Promise<StandingAnswer> =>
    em.findOneOrFail(CourseRow, { id }, { refresh: true }).then((row) => standingOf(em, row, clock.now()));

  router.get('/standing', async (req, res) => {
    const id = await courseOf(reading, req);
    res.json(await standing(reading.em.fork(), id));
  });

  router.post('/mail/stop', async (req, res) => {
    const id = await courseOf(reading, req);
    const answer = await inTransaction(orm, async (em) => {
      const account = await em.findOneOrFail(Account, { id: accountOf(req) });
      const row = await em.findOneOrFail(CourseRow, { id });
      if (row.stoppedAt == null) Object.assign(row, { stoppedAt: clock.now(), stoppedBy: account.name });
      await em.flush();
      return standing(em, id);
    });
    dispatcher.halt(id);
    res.json(answer);
  });

  router.post('/mail/start', async (req, res) => {
    const id = await courseOf(reading, req);
    const choice = parseInput(startSchema, req.body);
    await inTransaction(orm, async (em) => {
      const row = await em.findOneOrFail(CourseRow, { id });
      if (row.stoppedAt == null) return;
      Object.assign(row, { stoppedAt: null, stoppedBy: null });
      if (choice.queued === 'withdraw') await withdrawQueued(em, id, clock.now());
      if (choice.missed === 'skip') {
        const { course } = await live.get(em, id);
        for (const rule of await em.find(RuleRow, { course: id, status: 'on' })) {
          rule.nextRoundAt = nextRoundOf(ruleOfRow(rule), course, clock.now());
        }
      }
      await em.flush();
    });
    // What waited is due: its second look comes before the rounds (engine R9).
    await dispatcher.drain();
    await runDueRounds(services);
    await dispatcher.drain();
    res.json(await standing(orm.em.fork(), id));
  });

  /** Mail that the server did not take is tried again at once. */
  router.post('/mail/retry', async (req, res) => {
    const id = await courseOf(reading, req);
    await inTransaction(orm, (em) => tryAgainNow(em, clock.now()));
    await dispatcher.drain();
    res.json(await standing(orm.em.fork(), id));
  });

  return router;
}

async function withdrawQueued(em: Em, course: number, now: Instant): Promise<void> {
  const waiting = await rowsOf<{ id: number }>(
    em,
    em.getKnex()('message').where({ course, state: 'queued' }).select('id'),
  );
  await move(
    em,
    waiting.map((m) => m.id),
    { to: 'withdrawn', from: ['queued'], reason: 'stopped', now },
  );
}
