/** Writing by hand: who gets it, who does not and why, and the messages queued; nothing is made or sent here. */
import { plural, type Instant } from '@zest-bell/core/time';
import { domainsOf, isActiveStudent, type Course, type Person } from '@zest-bell/core/course';
import type { RecipientSpec } from '@zest-bell/core/rules';
import { wordingKeyOf } from '@zest-bell/core/nudges';
import type { Wording } from '@zest-bell/core/wording';
import {
  needsConfirmationByHand,
  decideByHand,
  isInside,
  needsYes,
  NudgeLog,
  type HandDecision,
  type Recipient,
} from '@zest-bell/core/rounds';
import { courseOfMailing, type MailingRows } from '@zest-bell/core/imports';
import type { LiveCourse } from '../../course/activity/live.ts';
import { loggedNudges } from '../nudges/log.ts';
import { nudgeHolds, messageHolds } from '../nudges/entity.ts';
import { AppError } from '../../platform/errors/errors.ts';
import type { Em, Tx } from '../../platform/database/orm.ts';
import { mailingHolds } from './entity.ts';
import { accountOf, type Actor } from '@zest-bell/core/access';
import { voiceMustBeProven } from '../../course/senderProof.ts';
import { insertRow, insertRows } from '../../platform/database/writing.ts';

export interface MessagesToWrite {
  readonly wording: Wording;
  readonly rows: MailingRows;
  readonly to: readonly RecipientSpec[];
  readonly passBudget: boolean;
  /** Null: as soon as nothing is quiet. */
  readonly notBefore: Instant | null;
  readonly outside: readonly string[];
  readonly sheet: number | null;
  /** The instructor agreed to write to that many. */
  readonly confirmed: boolean;
  readonly by: Actor;
  readonly now: Instant;
}

export interface PersonDecision {
  readonly person: Person;
  readonly decision: HandDecision;
}

/** What becomes of a message to each, in the order of the rows. */
async function decideAll(
  em: Em,
  live: LiveCourse,
  course: Course,
  order: Pick<MessagesToWrite, 'rows' | 'to' | 'passBudget' | 'notBefore' | 'now'>,
): Promise<PersonDecision[]> {
  const ids = Object.keys(order.rows);
  const log = new NudgeLog(await loggedNudges(em, live.id, [], { students: ids }));
  const { to, passBudget, now } = order;
  const c = { course, log, to, passBudget, now, notBefore: order.notBefore ?? now };
  return ids.flatMap((id) => {
    const person = course.people[course.personIndex.get(id) ?? -1];
    return person ? [{ person, decision: decideByHand(person, c) }] : [];
  });
}

/** Outside addresses that were not agreed to. */
function outsideOfMailing(
  decided: readonly PersonDecision[],
  live: LiveCourse,
  { rows, outside }: Pick<MessagesToWrite, 'rows' | 'outside'>,
): string[] {
  const known = new Set(outside.map((a) => a.toLowerCase()));
  const domains = domainsOf(live.row.sender);
  // A guest’s own address is nobody’s of the course.
  const isOut = (to: Recipient, id: string) =>
    needsYes(to, domains) || (rows[id]?.guest != null && !isInside(to.address, domains));
  const found = decided.flatMap(({ decision, person }) =>
    decision.outcome === 'sent'
      ? decision.to.filter((to) => isOut(to, person.id)).map((to) => to.address.toLowerCase())
      : [],
  );
  return [...new Set(found)].filter((a) => !known.has(a));
}

/** Whether a message by hand to so many asks first. */
export const needsConfirmation = ({ course, row }: LiveCourse, readers: number): boolean =>
  needsConfirmationByHand(readers, course.people.filter(isActiveStudent).length, row.guards.askAbove);

/** Queues the messages. Throws `outsideAddresses`, `reachesMany`, `mailStopped`. */
export async function write(
  em: Tx<'course'>,
  live: LiveCourse,
  order: MessagesToWrite,
): Promise<{
  readonly mailing: number;
  readonly nudges: ReadonlyMap<string, number>;
  readonly decided: readonly PersonDecision[];
}> {
  if (live.row.stoppedAt != null) throw new AppError('mailStopped');
  if (!live.row.daysConfirmed) throw new AppError('daysNotConfirmed');
  await voiceMustBeProven(em, live, accountOf(order.by));
  const course = courseOfMailing(live.course, order.rows);
  const decided = await decideAll(em, live, course, order);
  const open = outsideOfMailing(decided, live, order);
  if (open.length > 0)
    throw new AppError(
      'outsideAddresses',
      open.map((address) => ({
        path: 'outside',
        code: 'outsideAddress',
        message: `This would write about students to ${address}, outside your institution`,
      })),
    );
  const readers = decided.filter((d) => d.decision.outcome === 'sent').length;
  if (!order.confirmed && needsConfirmation(live, readers))
    throw new AppError('reachesMany', [
      {
        path: 'confirmed',
        code: 'reachesMany',
        message: `This would write to ${plural(readers, 'person', 'people')}; so many need your confirmation`,
      },
    ]);
  const mailing = await insertRow(em, mailingHolds, {
    course: live.id,
    at: order.now,
    by: order.by,
    wording: order.wording,
    rows: order.rows,
    outside: order.outside.map((a) => a.toLowerCase()),
    sheet: order.sheet,
  });
  const sent = decided.flatMap(({ person, decision }) => (decision.outcome === 'sent' ? [{ person, decision }] : []));
  const nudgeRows = await insertRows(
    em,
    nudgeHolds,
    sent.map(({ person, decision }) => ({
      course: live.id,
      idempotencyKey: `${live.id}:${wordingKeyOf(mailing.id)}:${person.id}`,
      rule: null,
      ruleVersion: 0,
      student: person.id,
      roundAt: order.now,
      step: 0,
      spellStart: order.now,
      state: 'queued',
      toStudent: order.to.includes('student'),
      wording: wordingKeyOf(mailing.id),
      evidence: [],
      passed: decision.passedBudget ? ['budget'] : null,
      passedBy: order.by,
    })),
  );
  const messages = sent.flatMap(({ decision }, n) => {
    const toStudent = decision.to.findIndex((to) => to.kind === 'student');
    return decision.to.map((to, i) => ({
      ...to,
      nudge: nudgeRows[n]!.id,
      course: live.id,
      sendAt: decision.sendAt,
      lead: i === Math.max(0, toStudent),
      state: 'queued' as const,
      heldFor: null,
    }));
  });
  await insertRows(em, messageHolds, messages);
  const nudges = new Map(nudgeRows.map((nudge) => [nudge.student, nudge.id]));
  return { mailing: mailing.id, nudges, decided };
}
