/** What the mail server answered, written for many messages in one transaction; each answer stands for its message alone. */
import type { Instant } from '@zest-bell/core/time';
import { afterHandOver, type DeliveryOutcome } from '@zest-bell/core/nudges';
import { move } from '../nudges/transitions.ts';
import type { Tx } from '../../platform/database/orm.ts';
import { run } from '../../platform/database/query.ts';
import { grouped } from '@zest-bell/core/course';
import { claimsIn, PUT_BACK, type Claimed } from './claim.ts';

export interface Answered {
  readonly claimed: Claimed;
  readonly outcome: DeliveryOutcome;
}

/**
 * A message that was settled by somebody else in the meantime keeps what it has; its log row says what was answered. What the server
 * was in no state to take is as it was before, behind those that wait longer: perhaps it is something about this one after all.
 */
export async function writeOutcomes(em: Tx, answered: readonly Answered[], now: Instant): Promise<void> {
  const becomes = answered.map((a) => ({
    ...a,
    after: afterHandOver(a.outcome, a.claimed.message.attempts, now),
  }));
  const asBefore = becomes.filter(({ after }) => after === 'asBefore');
  await putBack(
    em,
    asBefore.map((a) => a.claimed),
    now,
    now,
  );
  const reached = becomes.filter(({ after }) => after !== 'asBefore');
  await writeAnswers(em, reached);
  // Those with the same end are written at once.
  for (const alike of grouped(reached, (a) => JSON.stringify(a.after)).values()) {
    const { after } = alike[0]!;
    const ids = alike.flatMap((a) => claimsIn(a.claimed).map((c) => c.message.id));
    if (after === 'asBefore') continue;
    if (after.to === 'queued') await move(em, ids, { to: 'queued', from: ['handing'], now, set: { sendAt: after.at } });
    else if (after.to === 'uncertain') await move(em, ids, { to: 'uncertain', from: ['handing'], now });
    else await move(em, ids, { to: after.to, now });
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
