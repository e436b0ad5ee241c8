/**
 * What a person sends by hand waits a few seconds in the outbox, so that they can take it back. Its messages are queued like any
 * others and are not reserved before the wait is over; taking them back is possible exactly as long.
 */
import { setOff } from '../../platform/work/setOff.ts';
import type { Instant } from '@zest-bell/core/time';
import { SENDING_GONE_AFTER, type SendingAnswer, type SendingKind } from '@zest-bell/core/exchange';
import { Account } from '../../access/entity.ts';
import type { Em, Tx } from '../../platform/database/orm.ts';
import { run } from '../../platform/database/query.ts';
import type { CourseServices } from '../../course/services.ts';
import type { MailHandOver } from '../outbox/handsOver.ts';
import { SendingRow, type SendingUndo, sendingHolds } from './entity.ts';
import { wallClock } from '../../platform/process/clock.ts';
import { insertRow, removeRows } from '../../platform/database/writing.ts';
import { messageHolds } from '../nudges/entity.ts';

export interface NewSending {
  readonly account: number;
  readonly course: number;
  readonly kind: SendingKind;
  readonly words: string;
  readonly now: Instant;
  readonly takeBack: SendingUndo;
}

/** Begins the wait that the person has set; null where they wait for nothing. */
export async function beginSending(em: Tx<'course'>, { now, ...sending }: NewSending): Promise<SendingRow | null> {
  const { sendDelay } = await em.findOneOrFail(Account, { id: sending.account }, { disableIdentityMap: true });
  if (sendDelay === 0) return null;
  const wait = sendDelay * 1000;
  await removeRows(em, sendingHolds, { until: { $lt: wallClock() - SENDING_GONE_AFTER } });
  const row = await insertRow(em, sendingHolds, { ...sending, until: wallClock() + wait, courseUntil: now + wait });
  return row;
}

/** These messages wait too. */
export async function holdMessages(
  em: Tx<'course'>,
  sending: SendingRow | null,
  where: Readonly<Record<string, readonly number[]>>,
) {
  if (sending === null) return;
  for (const [column, values] of Object.entries(where)) {
    await run(
      em,
      messageHolds,
      em
        .getKnex()('message')
        .whereIn(column, [...values])
        .where('state', 'queued')
        .update({ sending: sending.id }),
    );
  }
}

/** Those that still wait. */
export const openSendings = (em: Em, now: Instant, where: { readonly account?: number } = {}): Promise<SendingRow[]> =>
  em.find(
    SendingRow,
    { ...where, until: { $gt: wallClock() }, courseUntil: { $gt: now } },
    { orderBy: { id: 'asc' }, disableIdentityMap: true },
  );

export const sendingAnswer = (row: SendingRow): SendingAnswer => ({
  id: row.id,
  course: row.course,
  kind: row.kind,
  words: row.words,
  left: Math.max(0, row.until - wallClock()),
});

/** Mail goes on once the wait is over, whatever else happens in the meantime. */
export function wakeAfter(services: CourseServices, dispatcher: Pick<MailHandOver, 'drain'>, row: SendingRow): void {
  const wake = () =>
    dispatcher.drain().catch((error: unknown) => services.logger.error({ err: error }, 'mail after a wait failed'));
  setTimeout(() => void wake(), Math.max(0, row.until - wallClock()) + 10).unref();
}

/** What was set off leaves: after its wait, or at once, and then an answer waits a little to see it leave. */
export async function leave(
  services: CourseServices,
  dispatcher: Pick<MailHandOver, 'drain'>,
  row: SendingRow | null,
): Promise<void> {
  if (row) return wakeAfter(services, dispatcher, row);
  await setOff(services.logger, () => dispatcher.drain());
}
