/** What an instructor does about a reply: answers it, or says that nothing more is to be done. */
import { newMessageId } from '../../platform/mail/mail.ts';
import { AppError } from '../../platform/errors/errors.ts';
import type { Em, Tx } from '../../platform/database/orm.ts';
import { queuePlainMail } from '../plainMail/queue.ts';
import { voiceIn } from '../../course/voice.ts';
import { ReplyRow, replyHolds } from './entity.ts';
import { accountOf, type Actor } from '@zest-bell/core/access';
import { updateRow } from '../../platform/database/writing.ts';

interface ReplyDecision {
  readonly course: number;
  readonly reply: number;
  readonly by: Actor;
  readonly now: number;
}

async function replyOf(em: Em, { course, reply }: ReplyDecision): Promise<ReplyRow> {
  const row = await em.findOne(ReplyRow, { id: reply, course, kind: 'reply' });
  if (!row) throw new AppError('notFound');
  return row;
}

/** Queues a plain answer that continues the thread, and settles the reply. Throws `notFound`. */
export async function answerReply(
  em: Tx<'course'>,
  decision: ReplyDecision & { readonly text: string; readonly sending: number | null },
): Promise<void> {
  const { by, now, text, sending } = decision;
  const reply = await replyOf(em, decision);
  // Somebody else did, or the same person in another window.
  if (reply.settledAt != null) throw new AppError('changedMeanwhile');
  const sender = await voiceIn(em, reply.course, accountOf(by));
  const subject = reply.subject.replace(/\s+/g, ' ').trim() || 'Your answer';
  await queuePlainMail(
    em,
    {
      kind: 'answer',
      course: reply.course,
      reply: reply.id,
      nudge: reply.nudge,
      by,
      at: now,
      subject: /^re:/i.test(subject) ? subject : `Re: ${subject}`,
      text: `${text.trim()}\n\n${quoted(reply)}`,
      messageId: newMessageId({ address: sender.address || sender.replyTo }),
      // What named none of its own, or is no mail, cannot be answered in its thread.
      inReplyTo: /^<(none|wrong)-/.test(reply.messageId) ? null : reply.messageId,
    },
    { name: reply.fromName, address: reply.fromAddress, sending, now },
  );
  await updateRow(em, replyHolds, reply, { settledAt: now, settledBy: by });
}

/** Their own words below, each line marked as theirs. */
const quoted = (reply: ReplyRow): string =>
  `${reply.fromName || reply.fromAddress} wrote:\n${reply.text
    .trim()
    .split('\n')
    .slice(0, 60)
    .map((line) => `> ${line}`)
    .join('\n')}`;

/** An answer without what it quotes: that is below the last empty line, as quoted lines are never empty. */
export const ownWordsOf = (text: string): string => text.slice(0, Math.max(0, text.lastIndexOf('\n\n'))) || text;

/** Nothing more is to be done about a reply, or something is after all. Throws `notFound`. */
export async function settleReply(em: Tx<'course'>, decision: ReplyDecision, settled: boolean): Promise<void> {
  const reply = await replyOf(em, decision);
  await updateRow(
    em,
    replyHolds,
    reply,
    settled ? { settledAt: decision.now, settledBy: decision.by } : { settledAt: null, settledBy: null },
  );
}
