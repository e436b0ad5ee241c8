/** Nudges with their messages, as a round has stored them. */
import { MessageRow, NudgeRow, nudgeHolds, messageHolds } from '../mail/nudges/entity.ts';
import type { Tx } from '../platform/database/orm.ts';
import { insertRow, insertRows } from '../platform/database/writing.ts';
import { at } from './stage.ts';

const SPELL = at('2026-09-06T10:00');
let nudges = 0;

/** A nudge of the rule `away` for p1, with its messages: one to the student unless told otherwise. Returns its id and theirs. */
export async function insertNudge(
  em: Tx<'course'>,
  more: Partial<NudgeRow> = {},
  messages: readonly Partial<MessageRow>[] = [{}],
): Promise<{ nudge: number; messages: number[] }> {
  const nudge = await insertRow(em, nudgeHolds, {
    course: 1,
    idempotencyKey: `a test ${++nudges}`,
    rule: 'away',
    ruleVersion: 1,
    student: 'p1',
    step: 0,
    roundAt: SPELL,
    spellStart: SPELL,
    state: 'queued',
    reason: null,
    toStudent: true,
    wording: 'gentle',
    evidence: [],
    ...more,
  });
  const rows = await insertRows(
    em,
    messageHolds,
    messages.map(
      (message, i) =>
        ({
          nudge: nudge.id,
          course: nudge.course,
          kind: 'student',
          lead: i === 0,
          reader: null,
          name: 'P1 Lind',
          address: `${nudge.student}@saltmarsh.example`,
          state: nudge.state,
          heldFor: null,
          trouble: null,
          sendAt: SPELL,
          attempts: 0,
          variant: null,
          claimedBy: null,
          settledAt: null,
          ...message,
        }) as MessageRow,
    ),
  );
  return { nudge: nudge.id, messages: rows.map((m) => m.id) };
}
