/** What waits of a person's own sending by hand: seen on every page, taken back, or sent at once. */
import { nameIn } from '@zest-bell/core/course';
import type { SendingResult } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import { accountHolds } from '../../access/entity.ts';
import type { Door } from '../../access/door.ts';
import { idOf } from '../../access/pathIds.ts';
import { coursesWhere, mayIn } from '../../access/permissions.ts';
import { MessageRow, NudgeRow } from '../../mail/nudges/entity.ts';
import type { MailHandOver } from '../../mail/outbox/handsOver.ts';
import { AppError } from '../../platform/errors/errors.ts';
import type { Em } from '../../platform/database/orm.ts';
import { setOff } from '../../platform/work/setOff.ts';
import type { RoundServices } from '../services.ts';
import { SendingRow, sendingHolds } from '../../mail/sendings/entity.ts';
import { openSendings, sendingAnswer } from '../../mail/sendings/sendings.ts';
import { undoSendingIn } from './takeBack.ts';
import { wallClock } from '../../platform/process/clock.ts';
import { updateRows, updateRow } from '../../platform/database/writing.ts';
import { inAccount } from '../../access/holding.ts';
import { inCourse } from '../../course/lock.ts';

export function sendingRoutes(door: Door, services: RoundServices, dispatcher: MailHandOver): void {
  const { orm, reading, live, clock } = services;

  door.on(contract.mail.sendings, async ({ account }) => {
    const em = reading.em.fork();
    const courses = await coursesWhere(em, account, 'nudges.decide');
    const rows = await openSendings(em, clock.now(), { account });
    return rows.filter((row) => courses.includes(row.course)).map(sendingAnswer);
  });

  /** What became of one that has left. */
  door.on(contract.mail.sending, async ({ path, account }) => {
    const em = reading.em.fork();
    const row = await ownSending(em, account, idOf(path.sending));
    const messages = await em.find(MessageRow, { sending: row.id }, { fields: ['nudge', 'state'] });
    const nudges = await em.find(NudgeRow, { id: { $in: messages.flatMap((m) => m.nudge ?? []) }, state: 'withdrawn' });
    const { course } = await live.get(em, row.course);
    return {
      waiting: messages.filter((m) => m.state === 'queued' || m.state === 'handing').length,
      canceled: nudges.map((n) => {
        return { name: nameIn(course, n.student), reason: n.reason ?? 'noLongerTrue' };
      }),
    } satisfies SendingResult;
  });

  door.on(contract.mail.undoSending, async ({ path, account }) => {
    const id = idOf(path.sending);
    const { course } = await ownSending(orm.em.fork(), account, id);
    const row = await inCourse(orm, course, async (em) => {
      await ownSending(em, account, id);
      return undoSendingIn(em, account, id, clock.now());
    });
    return sendingAnswer(row);
  });

  door.on(contract.mail.sendNow, async ({ path, account }) => {
    const id = idOf(path.sending);
    const { course } = await ownSending(orm.em.fork(), account, id);
    await inCourse(orm, course, async (em) => {
      const row = await ownSending(em, account, id);
      await updateRow(em, sendingHolds, row, { until: Math.min(row.until, wallClock()) });
    });
    await setOff(services.logger, () => dispatcher.drain());
  });

  /** How long what this person sends by hand waits; 0 sends at once. */
  door.on(contract.access.sendDelay, async ({ body: { seconds }, account }) => {
    await inAccount(orm, account, (em) => updateRows(em, accountHolds, { id: account }, { sendDelay: seconds }));
  });
}

/** One’s own, in a course where one may still decide on nudges. Throws `notFound`. */
async function ownSending(em: Em, account: number, id: number): Promise<SendingRow> {
  const row = await em.findOne(SendingRow, { id, account });
  if (!row || !(await mayIn(em, account, row.course, 'nudges.decide'))) throw new AppError('notFound');
  return row;
}
