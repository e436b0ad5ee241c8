/** Takes back what a person sent by hand, while it waits: as if it had not been sent. */
import { LockMode } from '@mikro-orm/core';
import type { Instant } from '@zest-bell/core/time';
import type { HeldReason } from '@zest-bell/core/nudges';
import { SheetRow, mailingHolds, sheetHolds } from '../../mail/byHand/entity.ts';
import { MessageRow, NudgeRow, RefusalRow, messageHolds, nudgeHolds, refusalHolds } from '../../mail/nudges/entity.ts';
import { move } from '../../mail/nudges/transitions.ts';
import { AppError } from '../../platform/errors/errors.ts';
import type { Tx } from '../../platform/database/orm.ts';
import { plainMailHolds } from '../../mail/plainMail/entity.ts';
import { replyHolds } from '../../mail/replies/entity.ts';
import { RoundRow, roundHolds } from '../deciding/entity.ts';
import { SendingRow, sendingHolds } from '../../mail/sendings/entity.ts';
import { openSendings } from '../../mail/sendings/sendings.ts';
import { removeRows, updateRows, updateRow } from '../../platform/database/writing.ts';

/** Throws `notFound` for a sending of somebody else, `tooLate` for one that has left. */
export async function undoSendingIn(em: Tx<'course'>, account: number, id: number, now: Instant): Promise<SendingRow> {
  const row = await em.findOne(SendingRow, { id, account });
  if (!row) throw new AppError('notFound');
  const open = await openSendings(em, now, { account });
  if (!open.some((o) => o.id === id)) throw new AppError('tooLate');
  // Held until the end: a mail process that is about to claim one passes it by, and one that has claimed it is seen.
  const lock = { lockMode: LockMode.PESSIMISTIC_WRITE, refresh: true } as const;
  const messages = await em.find(MessageRow, { sending: id }, { ...lock, orderBy: { id: 'asc' } });
  if (messages.some((m) => m.state !== 'queued')) throw new AppError('tooLate');
  const nudges = [...new Set(messages.flatMap((m) => m.nudge ?? []))];
  switch (row.kind) {
    case 'write':
      await forget(em, nudges);
      await forgetMailing(em, row, nudges);
      break;
    case 'letThrough':
      await forget(em, nudges);
      break;
    case 'tray':
      await holdAgain(em, row, messages, now);
      break;
    case 'answer':
      await removeRows(em, plainMailHolds, { id: { $in: messages.flatMap((m) => m.plainMail ?? []) } });
      await removeRows(em, messageHolds, { sending: id });
      await updateRows(em, replyHolds, { id: row.takeBack.reply! }, { settledAt: null, settledBy: null });
      break;
    case 'ring':
      await forgetRound(em, row);
      break;
  }
  await removeRows(em, sendingHolds, { id });
  return row;
}

async function forget(em: Tx<'course'>, nudges: readonly number[]): Promise<void> {
  await removeRows(em, messageHolds, { nudge: { $in: [...nudges] } });
  await removeRows(em, nudgeHolds, { id: { $in: [...nudges] } });
}

async function forgetMailing(
  em: Tx<'course'>,
  { course, takeBack: { mailing, sheet } }: SendingRow,
  nudges: readonly number[],
) {
  await removeRows(em, mailingHolds, { course, id: mailing! });
  if (sheet == null) return;
  const row = await em.findOne(SheetRow, { course, id: sheet });
  if (!row) return;
  await updateRow(em, sheetHolds, row, {
    nudges: Object.fromEntries(Object.entries(row.nudges).filter(([, nudge]) => !nudges.includes(nudge))),
  });
}

/** Back in the Tray, each for the reason it was there. */
async function holdAgain(
  em: Tx<'course'>,
  row: SendingRow,
  messages: readonly MessageRow[],
  now: Instant,
): Promise<void> {
  const reasons = row.takeBack.held ?? {};
  for (const heldFor of new Set(Object.values<HeldReason>(reasons))) {
    const ids = messages.filter((m) => reasons[String(m.id)] === heldFor).map((m) => m.id);
    await move(em, ids, { to: 'held', from: ['queued'], now, set: { heldFor } });
  }
  await updateRows(em, messageHolds, { sending: row.id }, { sending: null });
  await updateRows(em, nudgeHolds, { id: { $in: messages.flatMap((m) => m.nudge ?? []) } }, { decidedBy: null });
}

/** The round did not take place: its nudges, what waits of it, and what it counted as held back. */
async function forgetRound(em: Tx<'course'>, { course, takeBack: { round: id } }: SendingRow): Promise<void> {
  const round = await em.findOne(RoundRow, { course, id: id! });
  if (!round) return;
  const { rule, at } = round;
  const nudges = await em.find(NudgeRow, {
    course,
    rule,
    roundAt: at,
    state: { $in: ['queued', 'held', 'withdrawn'] },
  });
  await forget(
    em,
    nudges.map((n) => n.id),
  );
  const [before] = await em.find(RoundRow, { course, rule, at: { $lt: at } }, { orderBy: { at: 'desc' }, limit: 1 });
  for (const refusal of await em.find(RefusalRow, { course, rule, lastRound: at })) {
    if (refusal.rounds <= 1 || !before || refusal.firstRound === at)
      await removeRows(em, refusalHolds, { course, id: refusal.id });
    else
      await updateRow(em, refusalHolds, refusal, {
        rounds: refusal.rounds - 1,
        lastRound: Math.max(before.at, refusal.firstRound),
      });
  }
  await removeRows(em, roundHolds, { course, id: round.id });
}
