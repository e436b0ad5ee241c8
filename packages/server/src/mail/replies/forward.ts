/** Passes answers on to the instructor. */
import type { CourseRow } from '../../course/entity.ts';
import { handOver, isHandedByDead, UNCERTAIN, type Queue } from '../outbox/handOver.ts';
import { htmlOfPlain, newMessageId, type OutgoingMail } from '../../platform/mail/mail.ts';
import type { Tx } from '../../platform/database/orm.ts';
import type { Services } from '../../course/services.ts';
import { ReplyRow } from './entity.ts';

const REPLIES: Queue<ReplyRow> = {
  count: (em, where) => em.count(ReplyRow, where),
  first: (em, where) => em.findOne(ReplyRow, where, { orderBy: { id: 'asc' } }),
  mailOf,
};

export const forwardReplies = (services: Services, worker: string): Promise<void> =>
  handOver(services, worker, REPLIES);

export async function releaseForwards(em: Tx, dead: readonly string[]): Promise<void> {
  await em.nativeUpdate(ReplyRow, isHandedByDead(dead), UNCERTAIN);
}

/** From the course's own address, as no server may speak for the student's; an answer to it goes to the student. */
function mailOf(reply: ReplyRow, course: CourseRow, now: number): OutgoingMail {
  const { sender } = course;
  const who = reply.fromName || reply.fromAddress;
  const intro = `${who} <${reply.fromAddress}> replied to a message from ${course.code}. If you reply to this email, it goes to them.`;
  const text = `${intro}\n\n${reply.text}`;
  return {
    from: { name: `${who} (${course.code})`, address: sender.address },
    replyTo: reply.fromAddress,
    to: { name: sender.name, address: sender.replyTo },
    subject: reply.subject.replace(/\s+/g, ' ') || 'An answer',
    text,
    html: htmlOfPlain(text),
    messageId: newMessageId(sender),
    date: new Date(now),
    inReplyTo: null,
    pauseLink: null,
    envelopeFrom: null,
  };
}
