/** What waits of a person's own sending by hand: seen on every page, taken back, or sent at once. */
import { nameIn } from '@zest-bell/core/course';
import type { SendingResult } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import { Account } from '../../access/entity.ts';
import type { Door } from '../../access/door.ts';
import { idOf } from '../../access/asking.ts';
import { MessageRow, NudgeRow } from '../../mail/nudges/entity.ts';
import type { Dispatcher } from '../../mail/outbox/dispatcher.ts';
import { AppError } from '../../platform/http/errors.ts';
import { inTransaction } from '../../platform/database/transaction.ts';
import type { Services } from '../services.ts';
import { SendingRow } from '../../mail/sendings/entity.ts';
import { openSendings, sendingAnswer } from '../../mail/sendings/sendings.ts';
import { takeBack } from './takeBack.ts';

export function sendingRoutes(door: Door, services: Services, dispatcher: Dispatcher): void {
  const { orm, reading, live, clock } = services;

  door.on(contract.mail.sendings, async ({ account }) => {
    const rows = await openSendings(reading.em.fork(), clock.now(), { account });
    return rows.map(sendingAnswer);
  });

  /** What became of one that has left. */
  door.on(contract.mail.sending, async ({ path, account }) => {
    const em = reading.em.fork();
    const row = await em.findOne(SendingRow, { id: idOf(path.sending), account });
    if (!row) throw new AppError('notFound');
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
    const row = await inTransaction(orm, (em) => takeBack(em, account, id, clock.now()));
    return sendingAnswer(row);
  });

  door.on(contract.mail.sendNow, async ({ path, account }) => {
    const id = idOf(path.sending);
    await inTransaction(orm, async (em) => {
      const row = await em.findOne(SendingRow, { id, account });
      if (!row) throw new AppError('notFound');
      row.until = Math.min(row.until, Date.now());
      await em.flush();
    });
    await dispatcher.drain().catch(() => undefined);
  });

  /** How long what this person sends by hand waits; 0 sends at once. */
  door.on(contract.access.sendDelay, async ({ body: { seconds }, account }) => {
    await inTransaction(orm, (em) => em.nativeUpdate(Account, { id: account }, { sendDelay: seconds }));
  });
}
