/** Moves a message from state to state, and its nudge with it. */
import { canMove, type Instant, type LoggedReason, type MessageState } from '@zest-bell/core';
import type { Em } from '../platform/orm.ts';
import { MessageRow, NudgeRow } from './entity.ts';

/** The nudge's state follows the message that it is read from (engine R11). Throws on a move that no life has. */
export async function settle(
  em: Em,
  message: MessageRow,
  state: MessageState,
  reason: LoggedReason | null,
  now: Instant,
): Promise<void> {
  if (!canMove(message.state as MessageState, state)) {
    throw new Error(`A message cannot go from ${message.state} to ${state}`);
  }
  message.state = state;
  message.settledAt = state === 'queued' || state === 'handing' ? null : now;
  await em.flush();
  const first = await em.find(MessageRow, { nudge: message.nudge }, { orderBy: { id: 'asc' } });
  const primary = first.find((m) => m.kind === 'student') ?? first[0];
  if (primary?.id !== message.id) return;
  const nudge = await em.findOneOrFail(NudgeRow, { id: message.nudge });
  nudge.state = state;
  nudge.reason = reason;
  await em.flush();
}
