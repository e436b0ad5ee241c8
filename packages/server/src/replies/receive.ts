/** Takes in one mail that came back: threaded to its nudge, told apart, stored once. */
import { simpleParser, type AddressObject, type ParsedMail } from 'mailparser';
import { isPermanentBounce, replyKind, withoutQuotes, type Instant } from '@zest-bell/core';
import { PersonRow } from '../course/entity.ts';
import { MessageRow, NudgeRow } from '../nudges/entity.ts';
import type { Em } from '../platform/orm.ts';
import type { Services } from '../platform/services.ts';
import { inTransaction } from '../platform/transaction.ts';
import { AttemptRow } from '../sendLog/entity.ts';
import { ReplyRow } from './entity.ts';

const LONGEST = 20_000;

export interface Arrived {
  readonly envelopeFrom: string;
  /** The nudge that the address names, if it names one. */
  readonly nudge: number | null;
  readonly source: Buffer;
  /** When it came in, if that is known; now otherwise. */
  readonly at?: Instant;
  /** False for mail that the instructor has already, in a mailbox of their own. */
  readonly passOn?: boolean;
}

/** False when it belongs to no nudge. */
export async function receive({ orm, clock }: Services, arrived: Arrived): Promise<boolean> {
  const mail = await simpleParser(arrived.source);
  return inTransaction(orm, async (em) => {
    const nudge = await nudgeOf(em, mail, arrived.nudge);
    if (!nudge) return false;
    const messageId = mail.messageId ?? `<none-${crypto.randomUUID()}>`;
    if ((await em.count(ReplyRow, { course: nudge.course, messageId })) > 0) return true;
    const from = addressOf(mail.from);
    const headers = Object.fromEntries(
      mail.headerLines.map((h) => [
        h.key,
        h.line
          .slice(h.key.length + 1)
          .replace(/\r?\n\s+/g, ' ')
          .trim(),
      ]),
    );
    const kind = replyKind({ envelopeFrom: arrived.envelopeFrom, headers });
    const text = textOf(mail, kind === 'bounce');
    const passOn = kind === 'reply' && arrived.passOn !== false;
    em.create(ReplyRow, {
      course: nudge.course,
      nudge: nudge.id,
      student: kind === 'reply' ? await studentOf(em, nudge, from.address) : null,
      kind,
      at: Math.min(arrived.at ?? Infinity, clock.now()),
      messageId,
      fromName: from.name,
      fromAddress: from.address,
      subject: (mail.subject ?? '').slice(0, 500),
      text: text.slice(0, LONGEST),
      // A machine's mail is only noted; a person's goes on to the instructor.
      forward: passOn ? 'queued' : null,
      forwardAt: passOn ? clock.now() : null,
    });
    if (kind === 'bounce' && isPermanentBounce(text)) await markBounced(em, nudge, clock.now());
    await em.flush();
    return true;
  });
}

/** By the tag of the address, else by the Message-ID that the mail answers (RFC 5322 §3.6.4). */
async function nudgeOf(em: Em, mail: ParsedMail, tagged: number | null): Promise<NudgeRow | null> {
  if (tagged !== null) return em.findOne(NudgeRow, { id: tagged });
  const answered = [mail.inReplyTo, ...[mail.references ?? []].flat()].filter((id) => id !== undefined);
  if (answered.length === 0) return null;
  const attempt = await em.findOne(AttemptRow, { messageId: { $in: answered } }, { orderBy: { id: 'desc' } });
  return attempt && em.findOne(NudgeRow, { id: attempt.nudge });
}

/** The student, when it is their own address that wrote; a third party's words end no spell of theirs. */
async function studentOf(em: Em, nudge: NudgeRow, address: string): Promise<string | null> {
  const person = await em.findOne(PersonRow, { course: nudge.course, key: nudge.student });
  return person?.email?.toLowerCase() === address.toLowerCase() ? nudge.student : null;
}

async function markBounced(em: Em, nudge: NudgeRow, now: Instant): Promise<void> {
  const message = await em.findOne(MessageRow, { nudge: nudge.id, kind: 'student' });
  const person = message && (await em.findOne(PersonRow, { course: nudge.course, key: nudge.student }));
  if (!person || person.email?.toLowerCase() !== message.address.toLowerCase()) return;
  person.bouncedAt = now;
}

function textOf(mail: ParsedMail, whole: boolean): string {
  const report = mail.attachments
    .filter((a) => a.contentType === 'message/delivery-status')
    .map((a) => a.content.toString('utf8'));
  const text = [mail.text ?? '', ...report].join('\n').trim();
  return whole ? text : withoutQuotes(text);
}

function addressOf(of: AddressObject | undefined): { name: string; address: string } {
  const first = of?.value[0];
  return { name: first?.name ?? '', address: first?.address ?? '' };
}
