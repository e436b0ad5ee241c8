/** What the mail server answered, written for many messages in one transaction; each answer stands for its message alone. */
import type { Instant } from '@zest-bell/core/time';
import { retryDelay, type DeliveryOutcome } from '@zest-bell/core/nudges';
import { move } from '../nudges/transitions.ts';
import type { Tx } from '../../platform/database/orm.ts';
import { run } from '../../platform/database/query.ts';
import { claimsIn, PUT_BACK, type Claimed } from './claim.ts';

export interface Answered {
  readonly claimed: Claimed;
  readonly outcome: DeliveryOutcome;
}

/** A message that was settled by somebody else in the meantime keeps what it has; its log row says what was answered. */
export async function writeOutcomes(em: Tx, answered: readonly Answered[], now: Instant): Promise<void> {
  const reached = answered.filter((a) => a.outcome.kind !== 'unavailable');
  await writeAnswers(em, reached);
  const idsOf = (kind: DeliveryOutcome['kind']) =>
    answered.filter((a) => a.outcome.kind === kind).flatMap((a) => claimsIn(a.claimed).map((c) => c.message.id));
  await move(em, idsOf('sent'), { to: 'sent', now });
  await move(em, idsOf('permanent'), { to: 'failed', now });
  await move(em, idsOf('unknown'), { to: 'uncertain', now, from: ['handing'] });
  for (const { claimed, outcome } of answered) {
    if (outcome.kind !== 'transient') continue;
    const delay = retryDelay(claimed.message.attempts);
    const ids = claimsIn(claimed).map((c) => c.message.id);
    if (delay === null) await move(em, ids, { to: 'failed', now });
    else await move(em, ids, { to: 'queued', from: ['handing'], now, set: { sendAt: now + delay } });
  }
}

/** Nothing of these was handed over: they are as they were before the claim, and the log knows nothing of it. */
export async function putBack(em: Tx, claimed: readonly Claimed[], now: Instant, sendAt?: Instant): Promise<void> {
  if (claimed.length === 0) return;
  const all = claimed.flatMap(claimsIn);
  const attempts = all.map((c) => c.attempt);
  await run(em, em.getKnex()('attempt').whereIn('id', attempts).delete());
  const ids = all.map((c) => c.message.id);
  await move(em, ids, { ...PUT_BACK, now, set: { ...PUT_BACK.set, ...(sendAt === undefined ? {} : { sendAt }) } });
}

async function writeAnswers(em: Tx, answered: readonly Answered[]): Promise<void> {
  const knex = em.getKnex();
  for (const kind of new Set(answered.map((a) => a.outcome.kind))) {
    const same = answered
      .filter((a) => a.outcome.kind === kind)
      .flatMap(({ claimed, outcome }) => claimsIn(claimed).map((c) => ({ attempt: c.attempt, outcome })));
    const cases = same.map(() => 'when ? then ?').join(' ');
    const bindings = same.flatMap(({ attempt, outcome }) => [attempt, plain(outcome.response)]);
    const ids = same.map(({ attempt }) => attempt);
    await run(
      em,
      knex('attempt')
        .whereIn('id', ids)
        .update({ outcome: kind, response: knex.raw(`case id ${cases} end`, bindings) }),
    );
  }
}

/** A server may say anything: no control characters, and no more than anybody reads. */
const plain = (response: string): string => response.replace(/[^\P{Cc}\n]/gu, ' ').slice(0, 1000);
