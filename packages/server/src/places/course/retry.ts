/** Rounds that failed can be tried again at once. */
import { Router } from 'express';
import type { StandingAnswer } from '@zest-bell/core';
import { courseOf } from '../../accounts/routes.ts';
import { CourseRow } from '../../course/entity.ts';
import { standingOf } from './standing.ts';
import type { Dispatcher } from '../../outbox/dispatcher.ts';
import type { Services } from '../../services.ts';
import { inTransaction } from '../../platform/transaction.ts';
import { TroubleRow } from '../../rounds/entity.ts';
import { runDueRounds } from '../../rounds/scheduler.ts';

export function troubleRoutes(services: Services, dispatcher: Dispatcher): Router {
  const { orm, reading, clock } = services;
  const router = Router({ mergeParams: true });
  router.post('/retry', async (req, res) => {
    const id = await courseOf(reading, req);
    await inTransaction(orm, (em) => em.nativeUpdate(TroubleRow, { course: id }, { nextTryAt: clock.now() }));
    await runDueRounds(services);
    await dispatcher.drain();
    const em = orm.em.fork();
    const row = await em.findOneOrFail(CourseRow, { id });
    res.json((await standingOf(em, row, clock.now())) satisfies StandingAnswer);
  });
  return router;
}
