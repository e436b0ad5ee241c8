/** What the mail server answered, written for many messages in one transaction; each answer concerns its message alone. */
import type { Instant } from '@zest-bell/core/time';
import { afterHandOver, type DeliveryOutcome } from '@zest-bell/core/nudges';
import { move } from '../nudges/transitions.ts';
import type { Tx } from '../../platform/database/orm.ts';
import { statementsOf, type Statements, execute } from '../../platform/database/statements.ts';
import { grouped } from '@zest-bell/core/course';
import { claimsIn, PUT_BACK, type ClaimedMessage } from './claim.ts';
import { attemptHolds } from '../nudges/attempt.ts';

export interface AnsweredMessage {
  readonly claimed: ClaimedMessage;
  readonly outcome: DeliveryOutcome;
}

/** Who writes, and when. */
export interface OutcomeWriter {
  readonly worker: string;
  readonly now: Instant;
}

/**
 * A message that was settled by somebody else in the meantime keeps what it has; its log row says what was answered. What the server
 * was in no state to take is as it was before, behind those that wait longer: perhaps it is something about this one after all.
 */
export async function writeOutcomes(
  tx: Tx<'claim'> | Statements<'claim'>,
  answered: readonly AnsweredMessage[],
  by: OutcomeWriter,
): Promise<void> {
  const statements = await statementsOf(tx);
  const { worker, now } = by;
  const becomes = answered.map((a) => ({ ...a, after: afterHandOver(a.outcome, a.claimed.message.attempts, now) }));
  const asBefore = becomes.filter(({ after }) => after === 'asBefore');
  await putBack(
    statements,
    asBefore.map((a) => a.claimed),
    by,
    now,
  );
  const reached = becomes.filter(({ after }) => after !== 'asBefore');
  await writeAnswers(statements, reached);
  // Those with the same end are written at once.
  for (const alike of grouped(reached, (a) => JSON.stringify(a.after)).values()) {
    const { after } = alike[0]!;
    const ids = alike.flatMap((a) => claimsIn(a.claimed).map((c) => c.message.id));
    if (after === 'asBefore') continue;
    const own = { now, claimedBy: worker, from: ['handing'] as const };
    if (after.to === 'queued') await move(statements, ids, { ...own, to: 'queued', set: { sendAt: after.at } });
    else if (after.to === 'uncertain') await move(statements, ids, { ...own, to: 'uncertain' });
    else {
      const moved = new Set(await move(statements, ids, { ...own, to: after.to }));
      // Taken for dead in the meantime, this process knows the answer all the same.
      const others = ids.filter((id) => !moved.has(id));
      await move(statements, others, { to: after.to, from: ['uncertain'], now });
    }
  }
}

/** Nothing of these was handed over: they are as they were before the claim, and the log knows nothing of it. */
export async function putBack(
  tx: Tx<'claim'> | Statements<'claim'>,
  claimed: readonly ClaimedMessage[],
  { worker, now }: OutcomeWriter,
  sendAt?: Instant,
): Promise<void> {
  if (claimed.length === 0) return;
  const all = claimed.flatMap(claimsIn);
  const attempts = all.map((c) => c.attempt);
  const statements = await statementsOf(tx);
  const { among, list } = statements;
  await execute(statements, attemptHolds, `delete from attempt where ${among('id')} and outcome = 'handing'`, [
    list(attempts),
  ]);
  const ids = all.map((c) => c.message.id);
  await move(statements, ids, {
    ...PUT_BACK,
    now,
    claimedBy: worker,
    set: { ...PUT_BACK.set, ...(sendAt === undefined ? {} : { sendAt }) },
  });
}

/** These were never begun: they wait again, and what the log may have of it goes. */
export async function letGo(
  tx: Tx<'claim'> | Statements<'claim'>,
  messages: readonly number[],
  { worker, now }: OutcomeWriter,
): Promise<void> {
  if (messages.length === 0) return;
  const statements = await statementsOf(tx);
  const { among, list } = statements;
  const moved = await move(statements, messages, { ...PUT_BACK, now, claimedBy: worker });
  await execute(statements, attemptHolds, `delete from attempt where ${among('message')} and outcome = 'handing'`, [
    list(moved),
  ]);
}

async function writeAnswers(statements: Statements<'claim'>, answered: readonly AnsweredMessage[]): Promise<void> {
  const { among, list, textFor } = statements;
  for (const [kind, same] of grouped(answered, (a) => a.outcome.kind)) {
    const said = new Map(
      same.flatMap(({ claimed, outcome }) => claimsIn(claimed).map((c) => [c.attempt, plain(outcome.response)])),
    );
    await execute(
      statements,
      attemptHolds,
      `update attempt set outcome = ?, response = ${textFor('id')} where ${among('id')}`,
      [kind, JSON.stringify(Object.fromEntries(said)), list([...said.keys()])],
    );
  }
}

/** A server may say anything: no control characters, and no more than anybody reads. */
const plain = (response: string): string => response.replace(/[^\P{Cc}\n]/gu, ' ').slice(0, 1000);
