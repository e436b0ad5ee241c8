/**
 * Every change of a message's state goes through here, many at once: the table of the core says from which states a message
 * can come, and what has moved on in the meantime stays as it is. A nudge follows its lead message (engine R11).
 */
import type { Instant } from '@zest-bell/core/time';
import { statesBefore, type HeldReason, type MessageState } from '@zest-bell/core/nudges';
import type { LoggedReason } from '@zest-bell/core/exchange';
import type { Tx } from '../../platform/database/orm.ts';
import {
  statementsOf,
  type List,
  type Statements,
  type SqlValue,
  type StatementsOf,
  execute,
} from '../../platform/database/statements.ts';
import type { HolderOf } from '../../platform/database/writing.ts';
import { messageHolds, nudgeHolds } from './entity.ts';

export interface Move {
  readonly to: MessageState;
  readonly now: Instant;
  /** Why it was withdrawn. */
  readonly reason?: LoggedReason | null;
  /** Only from these of the states that the table allows. */
  readonly from?: readonly MessageState[];
  /** Only what this process has claimed. */
  readonly claimedBy?: string;
  /** Only messages that the mail server cannot have yet. */
  readonly notBegun?: true;
  readonly set?: {
    readonly sendAt?: Instant;
    readonly claimedBy?: string;
    readonly heldFor?: HeldReason;
    readonly trouble?: string;
    /** Added to the attempts: −1 takes one back that never reached the server. */
    readonly attempts?: 1 | -1;
  };
}

/** What may move messages: what holds their course, and what changes only what this process has claimed. */
export type MovesMessages = HolderOf<'course' | 'claim'> | StatementsOf<'course' | 'claim'>;

/** Moves the messages that can be moved, and returns their ids. */
export async function move(tx: MovesMessages, ids: readonly number[], how: Move): Promise<number[]> {
  if (ids.length === 0) return [];
  const { to, now, reason = null, from, claimedBy, notBegun, set = {} } = how;
  const statements = await statementsOf(tx as Tx<'claim'> | Statements<'claim'>);
  const { among, list } = statements;
  const allowed = statesBefore(to).filter((state) => !from || from.includes(state));
  // Each with its values, in the order of the text.
  const parts: readonly (readonly [string, ...(SqlValue | List)[]])[] = [
    ['update message set state = ?, settled_at = ?', to, to === 'queued' || to === 'handing' ? null : now],
    [', claimed_by = ?, begun_at = null, trouble = ?', set.claimedBy ?? null, set.trouble ?? null],
    // A dismissal can be undone, so the reason for waiting is kept.
    ...(to === 'dismissed' ? [] : [[', held_for = ?', to === 'held' ? (set.heldFor ?? 'step') : null] as const]),
    ...(set.sendAt === undefined ? [] : [[', send_at = ?', set.sendAt] as const]),
    ...(set.attempts === undefined ? [] : [[', attempts = attempts + ?', set.attempts] as const]),
    [` where ${among('id')} and ${among('state')}`, list(ids), list(allowed)],
    ...(claimedBy === undefined ? [] : [[' and claimed_by = ?', claimedBy] as const]),
    ...(notBegun ? [[' and begun_at is null'] as const] : []),
    [' returning id, nudge, lead'],
  ];
  const moved = (await execute(
    statements,
    messageHolds,
    parts.map(([text]) => text).join(''),
    parts.flatMap(([, ...values]) => values),
  )) as { id: number; nudge: number | null; lead: boolean | number }[];
  const led = moved.flatMap((m) => (m.lead && m.nudge !== null ? [m.nudge] : []));
  if (led.length > 0) {
    await execute(statements, nudgeHolds, `update nudge set state = ?, reason = ? where ${among('id')}`, [
      to,
      reason,
      list(led),
    ]);
  }
  return moved.map((m) => m.id);
}
