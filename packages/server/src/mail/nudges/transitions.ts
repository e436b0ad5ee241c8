/**
 * Every change of a message's state goes through here, many at once: the table of the core says from which states a message
 * can come, and what has moved on in the meantime stays as it is. A nudge follows its lead message (engine R11).
 */
import type { Instant } from '@zest-bell/core/time';
import { statesBefore, type HeldReason, type MessageState } from '@zest-bell/core/nudges';
import type { LoggedReason } from '@zest-bell/core/exchange';
import type { Tx } from '../../platform/database/orm.ts';
import { inSlices, rowsOf, run } from '../../platform/database/query.ts';

export interface Move {
  readonly to: MessageState;
  readonly now: Instant;
  /** Why it was withdrawn. */
  readonly reason?: LoggedReason | null;
  /** Only from these of the states that the table allows. */
  readonly from?: readonly MessageState[];
  /** Only what this process has claimed. */
  readonly claimedBy?: string;
  readonly set?: {
    readonly sendAt?: Instant;
    readonly claimedBy?: string;
    readonly heldFor?: HeldReason;
    readonly trouble?: string;
    /** Added to the attempts: −1 takes one back that never reached the server. */
    readonly attempts?: 1 | -1;
  };
}

/** Moves the messages that can be moved, and returns their ids. */
export async function move(
  em: Tx,
  ids: readonly number[],
  { to, now, reason, from, claimedBy, set = {} }: Move,
): Promise<number[]> {
  const allowed = statesBefore(to).filter((state) => !from || from.includes(state));
  const moved: number[] = [];
  for (const slice of inSlices(ids)) {
    const knex = em.getKnex();
    const query = knex('message')
      .whereIn('id', slice)
      .whereIn('state', allowed)
      .update({
        state: to,
        settled_at: to === 'queued' || to === 'handing' ? null : now,
        claimed_by: set.claimedBy ?? null,
        // A dismissal can be taken back: why it waited stays with it.
        ...(to === 'dismissed' ? {} : { held_for: to === 'held' ? (set.heldFor ?? 'step') : null }),
        trouble: set.trouble ?? null,
        ...(set.sendAt === undefined ? {} : { send_at: set.sendAt }),
        ...(set.attempts === undefined ? {} : { attempts: knex.raw('attempts + ?', [set.attempts]) }),
      })
      .returning('id');
    if (claimedBy !== undefined) void query.where('claimed_by', claimedBy);
    moved.push(...(await rowsOf<{ id: number }>(em, query)).map((row) => row.id));
  }
  await nudgesFollow(em, moved, to, reason ?? null);
  return moved;
}

async function nudgesFollow(
  em: Tx,
  messages: readonly number[],
  state: MessageState,
  reason: LoggedReason | null,
): Promise<void> {
  for (const slice of inSlices(messages)) {
    const knex = em.getKnex();
    const led = knex('message').select('nudge').whereIn('id', slice).where('lead', true);
    await run(em, knex('nudge').whereIn('id', led).update({ state, reason }));
  }
}
