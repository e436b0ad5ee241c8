/** Mails that are no nudges, as they leave. */
import { newMessageId, htmlOfPlain, type OutgoingMail } from '../../platform/mail/mail.ts';
import type { Em } from '../../platform/database/orm.ts';
import type { CourseServices } from '../../course/services.ts';
import { accountOf } from '@zest-bell/core/access';
import { mailFrom, voiceOf, type SenderSettings } from '@zest-bell/core/course';
import { CourseRow, OwnSenderRow } from '../../course/entity.ts';
import { ReplyRow } from '../replies/entity.ts';
import { PlainMailRow } from '../plainMail/entity.ts';

interface MailRecipient {
  readonly plainMail: number;
  readonly name: string;
  readonly address: string;
}

/** Null for one of which a part is gone. */
export async function plainMails(
  em: Em,
  services: CourseServices,
  readers: readonly MailRecipient[],
): Promise<(reader: MailRecipient) => OutgoingMail | null> {
  const as = { disableIdentityMap: true } as const;
  const rows = await em.find(PlainMailRow, { id: { $in: readers.map((r) => r.plainMail) } }, as);
  const mails = new Map(rows.map((row) => [row.id, row]));
  const courses = new Map(
    (await em.find(CourseRow, { id: { $in: rows.map((r) => r.course) } }, as)).map((c) => [c.id, c]),
  );
  const own = await em.find(OwnSenderRow, { course: { $in: [...courses.keys()] } }, as);
  const passedOn = rows.flatMap((r) => (r.kind === 'forward' ? (r.reply ?? []) : []));
  const replies = new Map((await em.find(ReplyRow, { id: { $in: passedOn } }, as)).map((r) => [r.id, r]));
  return (reader) => {
    const row = mails.get(reader.plainMail);
    const course = row && courses.get(row.course);
    if (!course) return null;
    if (row.kind !== 'forward') {
      const writer = accountOf(row.by);
      const theirs = own.find((o) => o.course === course.id && o.account === writer);
      return ownMail(row, voiceOf(course.sender, theirs?.sender), reader, services);
    }
    const reply = replies.get(row.reply ?? 0);
    return reply ? forwarded(reply, course, reader, services) : null;
  };
}

function ownMail(
  row: PlainMailRow,
  sender: SenderSettings,
  { name, address }: MailRecipient,
  services: CourseServices,
): OutgoingMail {
  // What comes back to an answer belongs to the same nudge: it is received as the reply before was.
  const tagged =
    row.nudge != null && sender.answers === 'server'
      ? services.replyAddress({ nudge: row.nudge, message: null })
      : null;
  return {
    // A summary is the installation's own.
    from: row.kind === 'digest' ? services.installationSender() : mailFrom(sender, services.installationSender()),
    replyTo: tagged ?? sender.replyTo,
    to: { name, address },
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

/** From the course's own address, as no server may speak for the student's; an answer to it goes to the student. */
function forwarded(
  reply: ReplyRow,
  course: CourseRow,
  { name, address }: MailRecipient,
  services: CourseServices,
): OutgoingMail {
  const from = mailFrom(course.sender, services.installationSender());
  const who = reply.fromName || reply.fromAddress;
  const intro = `${who} <${reply.fromAddress}> replied to a message from ${course.code}. If you reply to this email, your reply goes to them.`;
  const text = `${intro}\n\n${reply.text}`;
  return {
    from: { name: `${who} (${course.code})`, address: from.address },
    replyTo: reply.fromAddress,
    to: { name, address },
    subject: reply.subject.replace(/\s+/g, ' ') || 'An answer',
    text,
    html: htmlOfPlain(text),
    messageId: newMessageId(from),
    date: new Date(services.clock.now()),
    inReplyTo: null,
    pauseLink: null,
    envelopeFrom: null,
  };
}
