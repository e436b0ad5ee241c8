/** One nudge of the log, opened: its messages, every attempt with its exact text, and what came back. */
import type { Course } from '@zest-bell/core/course';
import type { AttemptAnswer, ForwardState, LogDetail, ReplyAnswer } from '@zest-bell/core/exchange';
import { RetractedRow } from '../../course/activity/entity.ts';
import { factWordsOf } from '../../course/activity/factWords.ts';
import { MessageRow, type NudgeRow } from '../nudges/entity.ts';
import type { Em } from '../../platform/database/orm.ts';
import { forwardStates } from '../replies/forward.ts';
import { ReplyRow } from '../replies/entity.ts';
import { AttemptRow } from '../nudges/attempt.ts';
import { ruleNameIn, studentName, type LogOf } from './query.ts';
import { actorNames } from '../../access/audit.ts';

export async function detailOf(em: Em, nudge: NudgeRow, course: LogOf): Promise<LogDetail> {
  const order = { orderBy: { id: 'asc' }, disableIdentityMap: true } as const;
  const messages = await em.find(MessageRow, { nudge: nudge.id }, order);
  const attempts = await em.find(AttemptRow, { nudge: nudge.id }, order);
  const came = await em.find(ReplyRow, { nudge: nudge.id }, order);
  const forwards = await forwardStates(
    em,
    came.map((r) => r.id),
  );
  const replies = came.map((r) => replyAnswer(r, forwards.get(r.id) ?? null));
  const name = await actorNames(em, [nudge.passedBy, nudge.decidedBy]);
  const { roundAt, rule, student, step, state, reason, subject, spellStart, ruleVersion, evidence, passed, passedBy } =
    nudge;
  return {
    nudge: nudge.id,
    roundAt,
    rule: rule ?? null,
    ruleName: ruleNameIn(course.rules, rule ?? null),
    student,
    studentName: studentName(course.course, student),
    step,
    state,
    reason: reason ?? null,
    subject: subject ?? null,
    messages: messages.length,
    at: nudge.lastAt ?? roundAt,
    spellStart,
    ruleVersion,
    evidence,
    passed: passed == null ? null : { limits: passed, by: name(passedBy) },
    dismissed: nudge.dismissedFor == null ? null : { by: name(nudge.decidedBy), reason: nudge.dismissedFor },
    writtenBy: rule == null && passedBy != null ? name(passedBy) : null,
    corrections: await correctionsOf(em, nudge, course.course),
    answered: replies.find((r) => r.kind === 'reply')?.kind ?? replies[0]?.kind ?? null,
    replies,
    to: messages.map((m) => ({
      id: m.id,
      kind: m.kind,
      reader: m.reader ?? m.kind,
      heldFor: m.heldFor ?? null,
      trouble: m.trouble ?? null,
      name: m.name,
      address: m.address,
      state: m.state,
      sendAt: m.sendAt,
      attempts: attempts.filter((a) => a.message === m.id).map(attemptAnswer),
    })),
  };
}

/** What was known when the nudge was decided, may have been its reason, and was taken back since. */
async function correctionsOf(em: Em, nudge: NudgeRow, course: Course): Promise<LogDetail['corrections']> {
  const rows = await em.find(
    RetractedRow,
    { course: nudge.course, person: nudge.student, retractedAt: { $gt: nudge.roundAt }, at: { $lte: nudge.roundAt } },
    { orderBy: { retractedAt: 'asc' }, disableIdentityMap: true },
  );
  const name = await actorNames(
    em,
    rows.map((r) => r.by),
  );
  const named = nudge.evidence.flatMap((leaf) => leaf.item ?? leaf.items ?? []);
  const isOver = nudge.evidence.some((leaf) => leaf.item === undefined && leaf.items === undefined);
  return rows
    .filter((r) => r.item == null || isOver || named.includes(r.item))
    .map((r) => ({ what: factWordsOf(r, course), at: r.retractedAt, by: name(r.by), reason: r.reason }));
}

const replyAnswer = (r: ReplyRow, forward: ForwardState | null): ReplyAnswer => ({
  id: r.id,
  kind: r.kind,
  at: r.at,
  from: r.fromName ? `${r.fromName} <${r.fromAddress}>` : r.fromAddress,
  subject: r.subject,
  text: r.text,
  forward,
});

const attemptAnswer = (a: AttemptRow): AttemptAnswer => ({
  id: a.id,
  at: a.at,
  outcome: a.outcome,
  response: a.response,
  messageId: a.messageId,
  from: { name: a.sentWith?.from ?? '', address: a.fromAddress },
  replyTo: a.replyTo,
  subject: a.subject,
  text: withoutPauseLink(a.body),
  html: withoutPauseLink(a.html),
  files: a.files,
  evidence: a.evidence,
});

/** The link works without a sign-in, and is the student's alone: the log shows where it was. */
export const withoutPauseLink = (text: string): string => text.replace(/\/p\/\d+\.[\w-]{20,}/g, '/p/…');
