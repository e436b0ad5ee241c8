/**
 * The mark that a message is on its way: written before the mail server gets its text, and gone with its answer. A process that dies
 * leaves those unclear that have it, and nothing else. A process that lost its claim, for example while suspended, cannot set it.
 */
import { type Statements, execute } from '../../platform/database/statements.ts';
import { claimsIn, type ClaimedMessage } from './claim.ts';
import { messageHolds } from '../nudges/entity.ts';

/** Marks the messages that still belong to this process, in courses with running mail. Returns those that may leave. */
export async function beginAll(
  statements: Statements<'claim'>,
  all: readonly ClaimedMessage[],
  worker: string,
): Promise<ReadonlySet<ClaimedMessage>> {
  if (all.length === 0) return new Set();
  const { among, list } = statements;
  const idsOf = (claimed: ClaimedMessage) => claimsIn(claimed).map((c) => c.message.id);
  const begun = (await execute(
    statements,
    messageHolds,
    `update message set begun_at = ${statements.moment} where ${among('id')} and state = 'handing' and claimed_by = ?
     and begun_at is null
     and not exists (select 1 from course c where c.id = message.course and c.stopped_at is not null) returning id`,
    [list(all.flatMap(idsOf)), worker],
  )) as { id: number }[];
  const won = new Set(begun.map((row) => row.id));
  const whole = all.filter((claimed) => idsOf(claimed).every((id) => won.has(id)));
  // A bundle leaves as a whole or not at all.
  const torn = all.filter((claimed) => !whole.includes(claimed)).flatMap((c) => idsOf(c).filter((id) => won.has(id)));
  if (torn.length > 0) {
    const letGo = `update message set begun_at = null where ${among('id')} and claimed_by = ?`;
    await execute(statements, messageHolds, letGo, [list(torn), worker]);
  }
  return new Set(whole);
}
