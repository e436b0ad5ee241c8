/** Passes answers on to the instructor: claimed before the hand-over, tried again when the mail server fails for now. */
import { escapeHtml, retryDelay, troubleDelay, type DeliveryOutcome } from '@zest-bell/core';
import { CourseRow } from '../course/entity.ts';
import { stoppedCourses } from '../course/waiting.ts';
import type { OutgoingMail } from '../platform/mail.ts';
import type { Em } from '../platform/orm.ts';
import type { Services } from '../services.ts';
import { inTransaction } from '../platform/transaction.ts';
import { ReplyRow } from './entity.ts';

/**
 * Passes on what is due, for the process `worker`. Replies of a course whose mail is stopped wait, and so do all when the mail
 * server takes nothing.
 */
export async function forwardReplies(services: Services, worker: string): Promise<void> {
  const { orm, clock, mail } = services;
  for (;;) {
    const claimed = await claimOne(services, worker);
    if (!claimed) return;
    const outcome = await mail.send(claimed.mail);
    await inTransaction(orm, async (em) => {
      const reply = await em.findOneOrFail(ReplyRow, { id: claimed.id });
      // Another process may have taken this one for dead, and a person may have settled it.
      if (reply.forward !== 'handing' || reply.claimedBy !== worker) return;
      Object.assign(reply, { claimedBy: null, ...after(outcome, reply.attempts, clock.now()) });
      await em.flush();
    });
    if (outcome.kind === 'unavailable') return;
  }
}

function after(outcome: DeliveryOutcome, attempts: number, now: number): Partial<ReplyRow> {
  switch (outcome.kind) {
    case 'sent':
      return { forward: 'sent' };
    case 'unknown':
      return { forward: 'uncertain' };
    case 'permanent':
      return { forward: 'failed' };
    case 'unavailable':
      return { forward: 'queued', attempts: attempts - 1, forwardAt: now + troubleDelay(1) };
    case 'transient': {
      const delay = retryDelay(attempts);
      return delay === null ? { forward: 'failed' } : { forward: 'queued', forwardAt: now + delay };
    }
  }
}

async function claimOne({ orm, clock }: Services, worker: string): Promise<{ id: number; mail: OutgoingMail } | null> {
  const due = { forward: 'queued', forwardAt: { $lte: clock.now() } } as const;
  // Most of the time there is none, and nothing needs to be locked to know it.
  if ((await orm.em.fork().count(ReplyRow, due)) === 0) return null;
  return inTransaction(orm, async (em) => {
    const stopped = await stoppedCourses(em);
    const reply = await em.findOne(ReplyRow, { ...due, course: { $nin: stopped } }, { orderBy: { id: 'asc' } });
    if (!reply) return null;
    Object.assign(reply, { forward: 'handing', claimedBy: worker, attempts: reply.attempts + 1 });
    await em.flush();
    const course = await em.findOneOrFail(CourseRow, { id: reply.course });
    return { id: reply.id, mail: mailOf(reply, course, clock.now()) };
  });
}

/** What a dead process was passing on may have left or not, like any other mail. */
export async function releaseForwards(em: Em, dead: readonly string[]): Promise<void> {
  await em.nativeUpdate(
    ReplyRow,
    { forward: 'handing', claimedBy: { $in: [...dead] } },
    { forward: 'uncertain', claimedBy: null },
  );
}

/** From the course's own address, as no server may speak for the student's; an answer to it goes to the student. */
function mailOf(reply: ReplyRow, course: CourseRow, now: number): OutgoingMail {
  const { sender } = course;
  const who = reply.fromName || reply.fromAddress;
  const intro = `${who} <${reply.fromAddress}> replied to a message from ${course.code}. If you reply to this email, it goes to them.`;
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
