/**
 * Claims messages that are due, in one transaction: each gets its second look (engine R9), is rendered, and stands in the log
 * as `handing` before anything is handed over. What may not leave is settled here.
 */
import {
  domainsOf,
  firstOpen,
  needsYes,
  nextVariant,
  secondLook,
  type CompiledWording,
  type Instant,
  type LoggedReason,
  type MessageState,
  type Parsed,
  type Recipient,
  type Rule,
} from '@zest-bell/core';
import type { LiveCourse } from '../activity/live.ts';
import { heldCourses } from '../course/standing.ts';
import { MessageRow } from '../nudges/entity.ts';
import { settle } from '../nudges/settle.ts';
import type { Em } from '../platform/orm.ts';
import { rowsOf, run } from '../platform/query.ts';
import type { Services } from '../platform/services.ts';
import { RuleRow } from '../rules/entity.ts';
import { ruleOfRow } from '../rules/repository.ts';
import { lastKey, lastVariants, loadWordings } from '../wording/repository.ts';
import { filesOf } from '../wording/sending.ts';
import { compose, type Composed } from './compose.ts';
import { dueMessages, threadKey, threads, variantsBeside, type QueuedMessage } from './queue.ts';

export interface Claimed extends Composed {
  readonly message: QueuedMessage;
  /** The row of the log. */
  readonly attempt: number;
}

/** What the messages of one course share in a claim. */
interface CourseOfMail extends LiveCourse {
  readonly wordings: (key: string) => Parsed<CompiledWording>;
  readonly rules: ReadonlyMap<string, RuleRow>;
  readonly last: Map<string, number>;
}

/** `full`: as many as were asked for were due, so there may be more. */
export async function claimDue(
  em: Em,
  services: Services,
  worker: string,
  limit: number,
): Promise<{ claimed: Claimed[]; full: boolean }> {
  const now = services.clock.now();
  const due = await dueMessages(em, now, await heldCourses(em, now), limit);
  if (due.length === 0) return { claimed: [], full: false };
  const nudges = [...new Set(due.map((m) => m.nudge))];
  const answered = await threads(em, nudges);
  const variants = new Map(await variantsBeside(em, nudges));
  const courses = new Map<number, CourseOfMail>();
  for (const id of new Set(due.map((m) => m.course))) {
    const students = due.filter((m) => m.course === id).map((m) => m.student);
    courses.set(id, await courseOfMail(em, services, id, students));
  }
  const made: { message: QueuedMessage; composed: Composed; variant: number }[] = [];
  for (const message of due) {
    const course = courses.get(message.course)!;
    const fate = look(message, course, now);
    if (fate.kind !== 'leaves') {
      await stay(em, services, message, fate, now);
      continue;
    }
    const { rule, wording } = fate;
    // A retry, and all messages of one nudge, are made from the text that was chosen first.
    const key = lastKey(message.wording, message.student);
    const variant =
      message.variant ??
      variants.get(message.nudge) ??
      nextVariant(wording.count, course.last.get(key) ?? null, message.student);
    variants.set(message.nudge, variant);
    course.last.set(key, variant);
    const inReplyTo = answered.get(threadKey(message.nudge, message.address)) ?? null;
    const composed = compose(services, { message, course, rule, wording, variant, inReplyTo, at: now });
    made.push({ message, composed, variant });
  }
  return { claimed: await writeClaims(em, worker, made, now), full: due.length === limit };
}

async function courseOfMail(
  em: Em,
  { live }: Services,
  id: number,
  students: readonly string[],
): Promise<CourseOfMail> {
  const rows = await em.find(RuleRow, { course: id }, { disableIdentityMap: true });
  return {
    ...(await live.get(em, id)),
    wordings: await loadWordings(em, id),
    rules: new Map(rows.map((r) => [r.key, r])),
    last: await lastVariants(em, id, students),
  };
}

/** What becomes of a message at its hand-over. */
type Fate =
  | { readonly kind: 'leaves'; readonly rule: Rule; readonly wording: CompiledWording }
  | { readonly kind: 'waits'; readonly until: Instant }
  | { readonly kind: 'settled'; readonly state: MessageState; readonly reason: LoggedReason | null }
  | { readonly kind: 'broken'; readonly problems: Extract<Parsed<CompiledWording>, { ok: false }>['problems'] };

const withdrawn = (reason: LoggedReason): Fate => ({ kind: 'settled', state: 'withdrawn', reason });

function look(message: QueuedMessage, course: CourseOfMail, now: Instant): Fate {
  const known = course.rules.get(message.rule ?? '');
  if (!known) return withdrawn('ruleOff');
  const rule = read(known);
  if (rule === null) return { kind: 'broken', problems: [] };
  const of = { rule, student: message.student, round: message.roundAt, step: message.step };
  const reason = secondLook(of, course.facts, now);
  if (reason) return withdrawn(reason);
  const open = firstOpen(now, course.course.settings.quietHours, course.course);
  if (open >= course.course.calendar.end) return withdrawn('courseOver');
  if (open > now) return { kind: 'waits', until: open };
  const to = message as Pick<Recipient, 'kind' | 'address'>;
  if (needsYes(to, domainsOf(course.row.sender)) && !known.outside.includes(message.address.toLowerCase())) {
    return { kind: 'settled', state: 'held', reason: null };
  }
  const wording = course.wordings(message.wording);
  return wording.ok ? { kind: 'leaves', rule, wording: wording.value } : { kind: 'broken', problems: wording.problems };
}

/** A rule that cannot be read holds up no other's mail. */
function read(row: RuleRow): Rule | null {
  try {
    return ruleOfRow(row);
  } catch {
    return null;
  }
}

/** What does not leave now is rare: it is settled one by one. */
async function stay(
  em: Em,
  services: Services,
  message: QueuedMessage,
  fate: Exclude<Fate, { kind: 'leaves' }>,
  now: Instant,
): Promise<void> {
  const row = await em.findOneOrFail(MessageRow, { id: message.id });
  switch (fate.kind) {
    case 'waits':
      row.sendAt = fate.until;
      return em.flush();
    case 'settled':
      return settle(em, row, fate.state, fate.reason, now);
    case 'broken':
      // A rule or wording that broke after the decision: the nudge fails, instead of waiting for ever.
      services.logger.error({ message: message.id, problems: fate.problems }, 'a message cannot be rendered');
      return settle(em, row, 'failed', null, now);
  }
}

async function writeClaims(
  em: Em,
  worker: string,
  made: readonly { message: QueuedMessage; composed: Composed; variant: number }[],
  now: Instant,
): Promise<Claimed[]> {
  if (made.length === 0) return [];
  const knex = em.getKnex();
  const ids = made.map(({ message }) => message.id);
  const rows = made.map(({ message, composed: { mail, parcel, evidence } }) => ({
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
    files: JSON.stringify(filesOf(parcel, message.kind === 'student')),
    evidence: JSON.stringify(evidence),
  }));
  await run(em, knex('attempt').insert(rows));
  const written = await rowsOf<{ id: number; message: number }>(
    em,
    knex('attempt').select('id', 'message').whereIn('message', ids).where('outcome', 'handing'),
  );
  const attempts = new Map(written.map((r) => [r.message, r.id]));
  for (const variant of new Set(made.map((m) => m.variant))) {
    await run(
      em,
      knex('message')
        .whereIn(
          'id',
          made.filter((m) => m.variant === variant).map(({ message }) => message.id),
        )
        .update({ state: 'handing', claimed_by: worker, settled_at: null, variant })
        .increment('attempts', 1),
    );
  }
  await nudgesFollow(em, ids, 'handing');
  return made.map(({ message, composed }) => ({ ...composed, message, attempt: attempts.get(message.id)! }));
}

/** The nudges that are read from these messages take their state (engine R11). */
export async function nudgesFollow(em: Em, messages: readonly number[], state: MessageState): Promise<void> {
  const knex = em.getKnex();
  // The student's message, or the first one if the student gets none.
  const primary = knex('message as m')
    .select('m.nudge')
    .whereIn('m.id', [...messages])
    .whereNotExists(
      knex('message as other')
        .whereRaw('other.nudge = m.nudge and other.id <> m.id')
        .whereRaw(
          "((other.kind = 'student' and m.kind <> 'student') or (other.kind <> 'student') = (m.kind <> 'student') and other.id < m.id)",
        ),
    );
  await run(em, knex('nudge').whereIn('id', primary).update({ state, reason: null }));
}
