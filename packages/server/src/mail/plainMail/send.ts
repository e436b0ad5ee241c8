/** Sends mails that are no nudges: plain text, from the course's sender. */
import type { CourseRow } from '../../course/entity.ts';
import { handOver, isHandedByDead, UNCERTAIN, type Queue } from '../outbox/handOver.ts';
import { htmlOfPlain, type OutgoingMail } from '../../platform/mail/mail.ts';
import type { Tx } from '../../platform/database/orm.ts';
import { openSendings } from '../sendings/sendings.ts';
import type { Services } from '../../course/services.ts';
import { PlainMailRow } from './entity.ts';

export function sendPlainMail(services: Services, worker: string): Promise<void> {
  const queue: Queue<PlainMailRow> = {
    count: (em, where) => em.count(PlainMailRow, where),
    first: (em, where) => em.findOne(PlainMailRow, where, { orderBy: { id: 'asc' } }),
    mailOf: (row, course) => mailOf(row, course, services),
    waits: async (em, now) => {
      const open = (await openSendings(em, now)).map((s) => s.id);
      return open.length === 0 ? {} : { $or: [{ sending: null }, { sending: { $nin: open } }] };
    },
  };
  return handOver(services, worker, queue);
}

export async function releasePlainMail(em: Tx, dead: readonly string[]): Promise<void> {
  await em.nativeUpdate(PlainMailRow, isHandedByDead(dead), UNCERTAIN);
}

function mailOf(row: PlainMailRow, course: CourseRow, services: Services): OutgoingMail {
  const { sender } = course;
  // What comes back to an answer belongs to the same nudge: it is received as the reply before was.
  const tagged =
    row.nudge != null && sender.answers === 'server'
      ? services.replyAddress({ nudge: row.nudge, message: null })
      : null;
  return {
    from: { name: sender.name, address: sender.address },
    replyTo: tagged ?? sender.replyTo,
    to: { name: row.toName, address: row.toAddress },
    subject: row.subject,
    text: row.text,
    html: htmlOfPlain(row.text),
    messageId: row.messageId,
    date: new Date(row.at),
    inReplyTo: row.inReplyTo ?? null,
    pauseLink: null,
    envelopeFrom: null,
  };
}
