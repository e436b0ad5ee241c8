/** Writes what was judged: the log rows of what leaves, before anything is handed over, and the states of the rest. */
import type { Instant } from '@zest-bell/core/time';
import { move, type Move } from '../nudges/transitions.ts';
import type { Tx } from '../../platform/database/orm.ts';
import { runReturning } from '../../platform/database/query.ts';
import { statementsOf, type Statements, execute } from '../../platform/database/statements.ts';
import { writeDraws } from '../../wording/trials/draws.ts';
import { filesOf, sentWithOf } from '../../wording/sending.ts';
import type { ComposedMail } from './compose.ts';
import { messagesIn, type MessageVerdict, type JudgedMessage, type Rider } from './judge.ts';
import { isOfNudge, type QueuedMessage } from './queue.ts';
import { attemptHolds } from '../nudges/attempt.ts';
import { messageHolds, nudgeHolds } from '../nudges/entity.ts';

/** A message about to be handed over, and its row of the log. */
export interface ClaimedMessage extends ComposedMail {
  readonly message: QueuedMessage;
  readonly attempt: number;
  /** The other messages of its bundle, which share its mail and what becomes of it. */
  readonly riders: readonly Pick<ClaimedMessage, 'message' | 'attempt'>[];
}

/** The message and those that ride along, each with its row of the log. */
export const claimsIn = (claimed: ClaimedMessage): Pick<ClaimedMessage, 'message' | 'attempt'>[] => [
  claimed,
  ...claimed.riders,
];

/**
 * Writes the fates of what this process still has. What is returned is to be handed over. Messages of a course that was
 * stopped in the meantime go back to the queue.
 */
export async function writeFates(
  em: Tx<'claim'>,
  judged: readonly JudgedMessage[],
  turn: { readonly worker: string; readonly now: Instant; readonly stopped: ReadonlySet<number> },
): Promise<ClaimedMessage[]> {
  const { worker, now, stopped } = turn;
  const leaving: JudgedMessage[] = [];
  const staying = new Map<string, { ids: number[]; how: Omit<Move, 'now'> }>();
  for (const one of judged) {
    const back = stopped.has(one.message.course) && one.fate.kind === 'leaves';
    if (one.fate.kind === 'leaves' && !back) {
      leaving.push(one);
      continue;
    }
    const how = back ? PUT_BACK : moveOf(one.fate as Exclude<MessageVerdict, { kind: 'leaves' }>);
    const key = JSON.stringify(how);
    const group = staying.get(key) ?? { ids: [], how };
    group.ids.push(...messagesIn(one).map((m) => m.id));
    staying.set(key, group);
  }
  for (const { ids, how } of staying.values()) await move(em, ids, { ...how, now, claimedBy: worker });
  return writeAttempts(em, leaving, worker, now);
}

/**
 * What changes messages only where this process has them: each statement names `claimed_by`, or makes the claim itself where nobody has one.
 * Nothing else holds messages, so that those which this process lost in the meantime are left alone.
 */
export function byClaim(tx: Tx): Tx<'claim'>;
export function byClaim(statements: Statements): Statements<'claim'>;
export function byClaim(either: Tx | Statements): unknown {
  return either;
}

/** Not handed over: it is as it was before the claim. */
export const PUT_BACK: Omit<Move, 'now'> & { readonly set: NonNullable<Move['set']> } = {
  to: 'queued',
  from: ['handing'],
  set: { attempts: -1 },
};

function moveOf(fate: Exclude<MessageVerdict, { kind: 'leaves' }>): Omit<Move, 'now'> {
  switch (fate.kind) {
    case 'waits':
      return { ...PUT_BACK, set: { ...PUT_BACK.set, sendAt: fate.until } };
    case 'withdrawn':
      return { to: 'withdrawn', reason: fate.reason, set: { attempts: -1 } };
    case 'held':
      return { to: 'held', set: { heldFor: fate.heldFor, attempts: -1 } };
    case 'broken':
      return { to: 'failed', set: { trouble: fate.trouble, attempts: -1 } };
  }
}

type MessageToClaim = Extract<MessageVerdict, { kind: 'leaves' }> & {
  readonly message: QueuedMessage;
  readonly riders: readonly Rider[];
};

async function writeAttempts(
  em: Tx<'claim'>,
  leaving: readonly JudgedMessage[],
  worker: string,
  now: Instant,
): Promise<ClaimedMessage[]> {
  if (leaving.length === 0) return [];
  const statements = await statementsOf(em);
  const { among, list } = statements;
  // What another process took over in the meantime is no longer ours to send.
  const ours = await statements.ask<{ id: number }>(
    `select id from message where ${among('id')} and state = 'handing' and claimed_by = ?`,
    [list(leaving.flatMap(messagesIn).map((m) => m.id)), worker],
  );
  const mine = new Set(ours.map((row) => row.id));
  const ready: MessageToClaim[] = [];
  // A bundle of which a part is no longer ours is judged again, as it would speak of those who are gone.
  const torn: number[] = [];
  for (const one of leaving) {
    const ids = messagesIn(one).map((m) => m.id);
    if (one.fate.kind !== 'leaves') continue;
    if (ids.every((id) => mine.has(id))) ready.push({ message: one.message, riders: one.riders ?? [], ...one.fate });
    else torn.push(...ids.filter((id) => mine.has(id)));
  }
  const draws = ready.flatMap(({ draw, message }) =>
    draw && isOfNudge(message) ? [{ ...draw, course: message.course, student: message.student }] : [],
  );
  const stands = await writeDraws(em, draws, now);
  const holds = ({ draw, message }: MessageToClaim) =>
    draw === null || !isOfNudge(message) || stands({ ...draw, student: message.student });
  const made = ready.filter(holds);
  // Another process drew in the meantime: they are judged again.
  const again = [...torn, ...ready.filter((r) => !holds(r)).map(({ message }) => message.id)];
  if (again.length > 0) await move(em, again, { ...PUT_BACK, now, claimedBy: worker });
  if (made.length === 0) return [];
  const logged = made.flatMap(({ message, composed, variant, riders }) => [
    { message, composed, variant },
    ...riders.map((r) => ({ message: r.message, composed: { ...composed, evidence: r.evidence }, variant })),
  ]);
  const rows = logged.map(({ message, composed: { mail, parcel, evidence } }) => ({
    course: message.course,
    message: message.id,
    nudge: message.nudge,
    at: now,
    outcome: 'handing',
    response: '',
    message_id: mail.messageId,
    recipient_name: mail.to.name,
    address: mail.to.address,
    from_address: mail.from.address,
    reply_to: mail.replyTo,
    subject: mail.subject,
    body: mail.text,
    html: mail.html,
    files: JSON.stringify(parcel === null ? [] : filesOf(parcel, message.kind === 'student')),
    sent_with: JSON.stringify(sentWithOf(mail, parcel, message.kind === 'student')),
    evidence: JSON.stringify(evidence),
  }));
  const written = (await runReturning(
    em,
    attemptHolds,
    em.getKnex()('attempt').insert(rows).returning(['id', 'message']),
  )) as { id: number; message: number }[];
  const attempts = new Map(written.map((r) => [r.message, r.id]));
  for (const variant of new Set(logged.map((m) => m.variant))) {
    const ids = logged.filter((m) => m.variant === variant).map(({ message }) => message.id);
    await execute(statements, messageHolds, `update message set variant = ? where ${among('id')}`, [
      variant,
      list(ids),
    ]);
  }
  await rememberSubjects(statements, logged, now);
  const claim = (message: QueuedMessage) => ({ message, attempt: attempts.get(message.id)! });
  return made.map(({ message, composed, riders }) => ({
    ...composed,
    ...claim(message),
    riders: riders.map((r) => claim(r.message)),
  }));
}

/** A nudge is listed and searched by the subject of its lead message. */
async function rememberSubjects(
  statements: Statements<'claim'>,
  made: readonly { readonly message: QueuedMessage; readonly composed: ComposedMail }[],
  now: Instant,
): Promise<void> {
  const ofNudges = made.flatMap(({ message, composed }) => (isOfNudge(message) ? [{ message, composed }] : []));
  if (ofNudges.length === 0) return;
  const led = ofNudges.filter(({ message }) => message.lead);
  const subjects = Object.fromEntries(led.map(({ message, composed }) => [message.nudge, composed.mail.subject]));
  const { among, list, textFor } = statements;
  const remember = `update nudge set last_at = ?, subject = coalesce(${textFor('id')}, subject) where ${among('id')}`;
  await execute(statements, nudgeHolds, remember, [
    now,
    JSON.stringify(subjects),
    list(ofNudges.map(({ message }) => message.nudge)),
  ]);
}
