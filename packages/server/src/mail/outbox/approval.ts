/** The instructor's decision about messages that wait or that went wrong: each message is decided on its own. */
import type { Instant } from '@zest-bell/core/time';
import { domainsOf, type SenderSettings } from '@zest-bell/core/course';
import { HELD_REASONS, mailingOf } from '@zest-bell/core/nudges';
import { needsYes } from '@zest-bell/core/rounds';
import { AppError } from '../../platform/errors/errors.ts';
import type { Tx } from '../../platform/database/orm.ts';
import { RuleRow, ruleHolds } from '../../rules/entity.ts';
import { MailingRow, mailingHolds } from '../byHand/entity.ts';
import { MessageRow, NudgeRow } from '../nudges/entity.ts';
import { move } from '../nudges/transitions.ts';
import { updateRow } from '../../platform/database/writing.ts';

/**
 * Sends exactly these held messages; each gets its second look when it is handed over (engine R9). Sending one to an address
 * outside the institution is a yes to that address, which its rule keeps, or its mailing. Throws `notHeld` when one no longer waits.
 */
export async function approve(
  em: Tx<'course'>,
  messages: readonly MessageRow[],
  sender: SenderSettings,
  now: Instant,
): Promise<void> {
  await moveAll(em, messages, 'queued', now);
  for (const message of messages.filter((m) => needsYes(m, domainsOf(sender)))) {
    const nudge = await em.findOneOrFail(NudgeRow, { id: message.nudge });
    const { course } = message;
    const keeper =
      nudge.rule == null
        ? await em.findOne(MailingRow, { course, id: mailingOf(nudge.wording) ?? 0 })
        : await em.findOne(RuleRow, { course, key: nudge.rule });
    const address = message.address.toLowerCase();
    if (!keeper || keeper.outside.includes(address)) continue;
    const outside = [...keeper.outside, address];
    await (nudge.rule == null
      ? updateRow(em, mailingHolds, keeper as MailingRow, { outside })
      : updateRow(em, ruleHolds, keeper as RuleRow, { outside }));
  }
}

/** These held messages do not go, for good. Throws `notHeld` when one no longer waits. */
export const dismiss = (em: Tx<'course'>, messages: readonly MessageRow[], now: Instant): Promise<void> =>
  moveAll(em, messages, 'dismissed', now);

/** Dismissed messages wait again, each for the reason it waited. Throws `notHeld` when one was not dismissed. */
export async function restore(em: Tx<'course'>, messages: readonly MessageRow[], now: Instant): Promise<void> {
  let moved = 0;
  for (const heldFor of HELD_REASONS) {
    const ids = messages.filter((m) => (m.heldFor ?? 'step') === heldFor).map((m) => m.id);
    moved += (await move(em, ids, { to: 'held', from: ['dismissed'], now, set: { heldFor } })).length;
  }
  if (messages.length === 0 || moved < messages.length) throw new AppError('notHeld');
}

async function moveAll(
  em: Tx<'course'>,
  messages: readonly MessageRow[],
  to: 'queued' | 'dismissed',
  now: Instant,
): Promise<void> {
  const ids = messages.map((m) => m.id);
  const moved = await move(em, ids, { to, from: ['held'], now, ...(to === 'queued' ? { set: { sendAt: now } } : {}) });
  if (moved.length < ids.length) throw new AppError('notHeld');
}

/**
 * What the instructor found out about a message that is unclear, or that one that failed is to be tried again. Throws
 * `notUncertain` when it is neither.
 */
export async function settleByHand(
  em: Tx<'course'>,
  message: MessageRow,
  as: 'arrived' | 'sendAgain',
  now: Instant,
): Promise<void> {
  const moved =
    as === 'arrived'
      ? await move(em, [message.id], { to: 'sent', from: ['uncertain'], now })
      : await move(em, [message.id], { to: 'queued', from: ['uncertain', 'failed'], now, set: { sendAt: now } });
  if (moved.length === 0) throw new AppError('notUncertain');
}
