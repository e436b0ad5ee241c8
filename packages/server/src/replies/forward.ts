/** Passes answers on to the instructor: claimed before the hand-over, tried again when the mail server fails for now. */
import { escapeHtml, retryDelay } from '@zest-bell/core';
import { CourseRow } from '../course/entity.ts';
import type { OutgoingMail } from '../platform/mail.ts';
import type { Services } from '../platform/services.ts';
import { inTransaction } from '../platform/transaction.ts';
import { ReplyRow } from './entity.ts';

/** `worker`: the process that passes them on. Those of a course whose mail is stopped wait. */
export async function forwardReplies({ orm, clock, mail }: Services, worker: string): Promise<void> {
  for (;;) {
    const claimed = await inTransaction(orm, async (em) => {
      const stopped = await em.find(CourseRow, { stoppedAt: { $ne: null } }, { disableIdentityMap: true });
      const reply = await em.findOne(
        ReplyRow,
        { forward: 'queued', forwardAt: { $lte: clock.now() }, course: { $nin: stopped.map((c) => c.id) } },
        { orderBy: { id: 'asc' } },
      );
      if (!reply) return null;
      reply.forward = 'handing';
      reply.claimedBy = worker;
      reply.attempts += 1;
      await em.flush();
      const course = await em.findOneOrFail(CourseRow, { id: reply.course });
      return { id: reply.id, mail: mailOf(reply, course, clock.now()) };
    });
    if (!claimed) return;
    const outcome = await mail.send(claimed.mail);
    await inTransaction(orm, async (em) => {
      const reply = await em.findOneOrFail(ReplyRow, { id: claimed.id });
      reply.claimedBy = null;
      const delay = outcome.kind === 'transient' ? retryDelay(reply.attempts) : null;
      if (outcome.kind === 'sent') reply.forward = 'sent';
      else if (outcome.kind === 'unknown') reply.forward = 'uncertain';
      else if (delay === null) reply.forward = 'failed';
      else Object.assign(reply, { forward: 'queued', forwardAt: clock.now() + delay });
      await em.flush();
    });
  }
}

/** From the course's own address, as no server may speak for the student's; an answer to it goes to the student. */
function mailOf(reply: ReplyRow, course: CourseRow, now: number): OutgoingMail {
  const { sender } = course;
  const who = reply.fromName || reply.fromAddress;
  const intro = `${who} <${reply.fromAddress}> answered a message of ${course.code}. Your answer to this goes to them.`;
  const paragraphs = [intro, reply.text];
  return {
    from: { name: `${who} (${course.code})`, address: sender.address },
    replyTo: reply.fromAddress,
    to: { name: sender.name, address: sender.replyTo },
    subject: reply.subject.replace(/\s+/g, ' ') || 'An answer',
    text: paragraphs.join('\n\n'),
    html: paragraphs.map((p) => `<p>${escapeHtml(p).replace(/\n/g, '<br>')}</p>`).join('\n'),
    messageId: `<${crypto.randomUUID()}@${sender.address.split('@')[1] ?? 'zest-bell'}>`,
    date: new Date(now),
    inReplyTo: null,
    pauseLink: null,
    envelopeFrom: null,
  };
}
