/** What the mail server answered, written for many messages in one transaction. */
import { retryDelay, type DeliveryOutcome, type Instant } from '@zest-bell/core';
import { MessageRow } from '../nudges/entity.ts';
import { settle } from '../nudges/settle.ts';
import type { Em } from '../platform/orm.ts';
import { run } from '../platform/query.ts';
import { AttemptRow } from '../sendLog/entity.ts';
import { nudgesFollow, type Claimed } from './claim.ts';

export interface Answered {
  readonly of: Claimed;
  readonly outcome: DeliveryOutcome;
}

export async function writeOutcomes(em: Em, answered: readonly Answered[], now: Instant): Promise<void> {
  await writeSent(
    em,
    answered.filter((a) => a.outcome.kind === 'sent'),
    now,
  );
  for (const { of, outcome } of answered) {
    if (outcome.kind === 'sent') continue;
    const message = await em.findOneOrFail(MessageRow, { id: of.message.id });
    const attempt = await em.findOneOrFail(AttemptRow, { id: of.attempt });
    attempt.outcome = outcome.kind;
    attempt.response = outcome.response;
    message.claimedBy = null;
    await settleFailure(em, message, outcome.kind, now);
  }
}

/** What was accepted is most of it. */
async function writeSent(em: Em, answered: readonly Answered[], now: Instant): Promise<void> {
  if (answered.length === 0) return;
  const knex = em.getKnex();
  const said = answered.map(() => 'when ? then ?').join(' ');
  const bindings = answered.flatMap(({ of, outcome }) => [of.attempt, outcome.response]);
  await run(
    em,
    knex('attempt')
      .whereIn(
        'id',
        answered.map(({ of }) => of.attempt),
      )
      .update({ outcome: 'sent', response: knex.raw(`case id ${said} end`, bindings) }),
  );
  const ids = answered.map(({ of }) => of.message.id);
  await run(
    em,
    knex('message')
      .whereIn('id', ids)
      // Another process may have taken this one for dead meanwhile.
      .whereIn('state', ['handing', 'uncertain'])
      .update({ state: 'sent', claimed_by: null, settled_at: now }),
  );
  await nudgesFollow(em, ids, 'sent');
}

async function settleFailure(
  em: Em,
  message: MessageRow,
  kind: Exclude<DeliveryOutcome['kind'], 'sent'>,
  now: Instant,
): Promise<void> {
  if (kind === 'permanent') return settle(em, message, 'failed', null, now);
  if (kind === 'unknown') return settle(em, message, 'uncertain', null, now);
  const delay = retryDelay(message.attempts);
  if (delay === null) return settle(em, message, 'failed', null, now);
  message.sendAt = now + delay;
  return settle(em, message, 'queued', null, now);
}

/** Nothing of these was handed over: they are as they were before the claim. */
export async function putBack(em: Em, claimed: readonly Claimed[]): Promise<void> {
  if (claimed.length === 0) return;
  const knex = em.getKnex();
  const ids = claimed.map((c) => c.message.id);
  await run(
    em,
    knex('attempt')
      .whereIn(
        'id',
        claimed.map((c) => c.attempt),
      )
      .delete(),
  );
  await run(
    em,
    knex('message')
      .whereIn('id', ids)
      .where('state', 'handing')
      .update({ state: 'queued', claimed_by: null })
      .decrement('attempts', 1),
  );
  await nudgesFollow(em, ids, 'queued');
}
