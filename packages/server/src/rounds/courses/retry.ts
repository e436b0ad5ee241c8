/** Rounds that failed can be tried again at once. */
import { contract } from '@zest-bell/core/contract';
import type { StandingAnswer } from '@zest-bell/core/exchange';
import type { Door } from '../../access/door.ts';
import { courseStanding } from './standing.ts';
import type { MailHandOver } from '../../mail/outbox/handsOver.ts';
import type { RoundServices } from '../services.ts';
import { setOff } from '../../platform/work/setOff.ts';
import { troubleHolds } from '../deciding/entity.ts';
import { runDueRounds } from '../deciding/scheduler.ts';
import { updateRows } from '../../platform/database/writing.ts';
import { inCourse } from '../../course/lock.ts';

export function troubleRoutes(door: Door, services: RoundServices, dispatcher: MailHandOver): void {
  const { orm, clock } = services;
  door.on(contract.course.retryRounds, async ({ course: id }) => {
    await inCourse(orm, id, (em) => updateRows(em, troubleHolds, { course: id }, { nextTryAt: clock.now() }));
    await setOff(services.logger, async () => {
      await runDueRounds(services);
      await dispatcher.drain();
    });
    const em = orm.em.fork();
    return (await courseStanding(em, await services.live.get(em, id), clock.now())) satisfies StandingAnswer;
  });
}
