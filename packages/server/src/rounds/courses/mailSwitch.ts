/** One switch over all mail of a course: while it is off nothing leaves and no round runs. */
import { inCourse } from '../../course/lock.ts';
import type { Instant } from '@zest-bell/core/time';
import type { StandingAnswer } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import type { Door } from '../../access/door.ts';
import { move, type Move } from '../../mail/nudges/transitions.ts';
import { tryAgainNow } from '../../mail/outbox/mailTrouble.ts';
import type { MailHandOver } from '../../mail/outbox/handsOver.ts';
import type { Em, Tx } from '../../platform/database/orm.ts';
import { rowsOf } from '../../platform/database/query.ts';
import type { RoundServices } from '../services.ts';
import { setOff } from '../../platform/work/setOff.ts';
import { inTransaction } from '../../platform/database/transaction.ts';
import { runDueRounds } from '../deciding/scheduler.ts';
import { RuleRow, ruleHolds } from '../../rules/entity.ts';
import { nextRoundOf, ruleOfRow } from '../../rules/repository.ts';
import { CourseRow, courseHolds } from '../../course/entity.ts';
import { courseStanding } from './standing.ts';
import { updateRow } from '../../platform/database/writing.ts';

export function mailSwitchRoutes(door: Door, services: RoundServices, dispatcher: MailHandOver): void {
  const { orm, reading, live, clock, logger } = services;

  const standing = (em: Em, id: number): Promise<StandingAnswer> =>
    live.get(em, id).then((found) => courseStanding(em, found, clock.now()));

  door.on(contract.course.standing, async ({ course: id }) => {
    return await standing(reading.em.fork(), id);
  });

  door.on(contract.course.stopMail, async ({ course: id, actor }) => {
    const answer = await inCourse(orm, id, async (em) => {
      const row = await em.findOneOrFail(CourseRow, { id });
      if (row.stoppedAt == null) await updateRow(em, courseHolds, row, { stoppedAt: clock.now(), stoppedBy: actor });
      return standing(em, id);
    });
    dispatcher.halt(id);
    return answer;
  });

  door.on(contract.course.startMail, async ({ course: id, body: choice }) => {
    await inCourse(orm, id, async (em) => {
      const row = await em.findOneOrFail(CourseRow, { id });
      if (row.stoppedAt == null) return;
      const isCopy = row.copyFrom != null;
      await updateRow(em, courseHolds, row, { stoppedAt: null, stoppedBy: null, copyFrom: null });
      if (choice.queued === 'withdraw')
        await moveNudges(em, id, { to: 'withdrawn', reason: 'stopped', now: clock.now() });
      // Of a copy, what is no nudge and cannot be withdrawn may have left since as well.
      if (choice.queued === 'unclear' || (choice.queued === 'withdraw' && isCopy))
        await leaveUnclear(em, id, clock.now());
      if (choice.missed === 'skip') {
        const { course } = await live.get(em, id);
        for (const rule of await em.find(RuleRow, { course: id, status: 'on' })) {
          await updateRow(em, ruleHolds, rule, { nextRoundAt: nextRoundOf(ruleOfRow(rule), course, clock.now()) });
        }
      }
    });
    await setOff(logger, async () => {
      // What waited is due: its second look comes before the rounds (engine R9).
      await dispatcher.drain();
      await runDueRounds(services);
      await dispatcher.drain();
    });
    return await standing(orm.em.fork(), id);
  });

  /** Mail that the server did not take is tried again at once. */
  door.on(contract.course.retryMail, async ({ course: id }) => {
    await inTransaction(orm, (em) => tryAgainNow(em, clock.now()));
    await setOff(logger, () => dispatcher.drain());
    return await standing(orm.em.fork(), id);
  });
}

/** What waited in a copy may have left since from what was copied: each is for the instructor to settle. */
const leaveUnclear = (em: Tx<'course'>, course: number, now: Instant): Promise<void> =>
  moveQueued(em, em.getKnex()('message').where({ course, state: 'queued' }), { to: 'uncertain', now });

const moveNudges = (em: Tx<'course'>, course: number, how: Move): Promise<void> =>
  moveQueued(em, em.getKnex()('message').where({ course, state: 'queued' }).whereNotNull('nudge'), how);

async function moveQueued(em: Tx<'course'>, waiting: Parameters<typeof rowsOf>[1], how: Move): Promise<void> {
  const rows = await rowsOf<{ id: number }>(em, waiting);
  await move(
    em,
    rows.map((m) => m.id),
    { ...how, from: ['queued'] },
  );
}
