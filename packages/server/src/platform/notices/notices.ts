/** Notices of processes about their machines: given, taken back, and read. They go by the clock that all processes share. */
import type { MachineTrouble } from '@zest-bell/core/exchange';
import type { Em, Orm } from '../database/orm.ts';
import { inTransaction } from '../database/transaction.ts';
import { wallClock } from '../process/clock.ts';
import { NoticeRow, type ClockNotice, noticeHolds } from './entity.ts';
import { removeRows, upsertRow } from '../database/writing.ts';

export interface MachineNotice {
  readonly name: string;
  readonly kind: MachineTrouble;
  readonly says: string;
  readonly clock?: ClockNotice | null;
}

/** Gives a notice for `lasts` ms, or renews the one that exists. */
export function giveNotice(orm: Orm, { name, kind, says, clock = null }: MachineNotice, lasts: number): Promise<void> {
  const now = wallClock();
  return inTransaction(orm, async (tx) => {
    const known = await tx.findOne(NoticeRow, { name });
    const stands = known !== null && known.until > now;
    const row = { name, kind, says, clock, since: stands ? known.since : now, until: now + lasts };
    await upsertRow(tx, noticeHolds, row);
  });
}

export async function endNotice(orm: Orm, name: string): Promise<void> {
  if ((await orm.em.fork().count(NoticeRow, { name })) === 0) return;
  await inTransaction(orm, (tx) => removeRows(tx, noticeHolds, { name }));
}

/** Those that stand now, the oldest first. */
export const noticesNow = (em: Em, kind?: MachineTrouble): Promise<NoticeRow[]> =>
  em.find(
    NoticeRow,
    { until: { $gt: wallClock() }, ...(kind && { kind }) },
    { orderBy: { since: 'asc' }, disableIdentityMap: true },
  );

/** Removes those that are over. */
export const forgetNotices = (orm: Orm): Promise<number> =>
  inTransaction(orm, (tx) => removeRows(tx, noticeHolds, { until: { $lte: wallClock() } }));
