/** What the messages of one claim need, read for all of them at once: a row at a time would cost more than sending them. */
import type { Instant } from '@zest-bell/core';
import type { Em } from '../platform/orm.ts';
import { rowsOf } from '../platform/query.ts';

export interface QueuedMessage {
  readonly id: number;
  readonly nudge: number;
  readonly course: number;
  readonly kind: string;
  readonly reader: string | null;
  readonly name: string;
  readonly address: string;
  readonly attempts: number;
  readonly variant: number | null;
  // Of its nudge:
  readonly rule: string | null;
  readonly student: string;
  readonly roundAt: Instant;
  readonly step: number;
  readonly wording: string;
}

/** Messages that are due, the longest due first, but for courses that hold theirs. */
export function dueMessages(em: Em, now: Instant, held: ReadonlySet<number>, limit: number): Promise<QueuedMessage[]> {
  const query = em
    .getKnex()('message as m')
    .join('nudge as n', 'n.id', 'm.nudge')
    .where('m.state', 'queued')
    .where('m.send_at', '<=', now)
    .whereNotIn('m.course', [...held])
    .orderBy('m.send_at')
    .orderBy('m.id')
    .limit(limit)
    .select('m.id', 'm.nudge', 'm.course', 'm.kind', 'm.reader', 'm.name', 'm.address', 'm.attempts', 'm.variant')
    .select({ roundAt: 'n.round_at' })
    .select('n.rule', 'n.student', 'n.step', 'n.wording');
  return rowsOf<QueuedMessage>(em, query);
}

/** The text that another message of the same nudge was made from, by nudge. */
export async function variantsBeside(em: Em, nudges: readonly number[]): Promise<ReadonlyMap<number, number>> {
  const query = em
    .getKnex()('message')
    .select('nudge', 'variant')
    .whereIn('nudge', [...nudges])
    .whereNotNull('variant');
  const rows = await rowsOf<{ nudge: number; variant: number }>(em, query);
  return new Map(rows.map((r) => [r.nudge, r.variant]));
}

/**
 * The last message of the same rule and spell that reached the same address, by nudge and address: a later step answers it
 * (RFC 5322 §3.6.4).
 */
export async function threads(em: Em, nudges: readonly number[]): Promise<ReadonlyMap<string, string>> {
  const knex = em.getKnex();
  const query = knex('nudge as later')
    .join('nudge as earlier', function () {
      this.on('earlier.course', 'later.course')
        .andOn('earlier.student', 'later.student')
        .andOn('earlier.rule', 'later.rule')
        .andOn('earlier.spell_start', 'later.spell_start')
        .andOn('earlier.id', '<', 'later.id');
    })
    .join('attempt as a', 'a.nudge', 'earlier.id')
    .whereIn('later.id', [...nudges])
    .where('a.outcome', 'sent')
    .orderBy('earlier.id')
    .orderBy('a.id')
    .select({ nudge: 'later.id', address: 'a.address', messageId: 'a.message_id' });
  const rows = await rowsOf<{ nudge: number; address: string; messageId: string }>(em, query);
  return new Map(rows.map((r) => [threadKey(r.nudge, r.address), r.messageId]));
}

export const threadKey = (nudge: number, address: string): string => `${nudge} ${address}`;
