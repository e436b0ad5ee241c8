/** Rounds that failed can be tried again at once. */
import { contract } from '@zest-bell/core/contract';
import type { StandingAnswer } from '@zest-bell/core/exchange';
import type { Door } from '../../access/door.ts';
import { standingOf } from './standing.ts';
import type { HandsOver } from '../../mail/outbox/handsOver.ts';
import type { Services } from '../services.ts';
import { setOff } from '../../platform/work/setOff.ts';
import { inTransaction } from '../../platform/database/transaction.ts';
import { TroubleRow } from '../entity.ts';
import { runDueRounds } from '../scheduler.ts';

export function troubleRoutes(door: Door, services: Services, dispatcher: HandsOver): void {
  const { orm, clock } = services;
  door.on(contract.course.retryRounds, async ({ course: id }) => {
    await inTransaction(orm, (em) => em.nativeUpdate(TroubleRow, { course: id }, { nextTryAt: clock.now() }));
    await setOff(services.logger, async () => {
      await runDueRounds(services);
      await dispatcher.drain();
    });
    const em = orm.em.fork();
    return (await standingOf(em, await services.live.get(em, id), clock.now())) satisfies StandingAnswer;
  });
}
