/** Takes in one mail that came back: threaded to its nudge, told apart, stored once. */
import { isSameAddress } from '@zest-bell/core/course';
import { alsoCourse } from '../../course/lock.ts';
import type { AddressObject, ParsedMail } from 'mailparser';
import type { Instant } from '@zest-bell/core/time';
import { isPermanentBounce, replyKind, withoutQuotes } from '@zest-bell/core/nudges';
import { PersonRow, personHolds } from '../../course/entity.ts';
import { MessageRow, NudgeRow } from '../nudges/entity.ts';
import type { Em, Tx } from '../../platform/database/orm.ts';
import type { CourseServices } from '../../course/services.ts';
import { inTransaction } from '../../platform/database/transaction.ts';
import { AttemptRow } from '../nudges/attempt.ts';
import type { Tag } from './address.ts';
import { headersOf } from './headers.ts';
import { ReplyRow, replyHolds } from './entity.ts';
import { forward, mayForward } from './forward.ts';
import { insertRow, updateRow } from '../../platform/database/writing.ts';

const LONGEST = 20_000;

export interface Arrived {
  readonly envelopeFrom: string;
  /** The tag of the address that it came to, if it came to one of ours. */
  readonly tag: Tag | null;
  readonly mail: ParsedMail;
  /** When it came in, if that is known; now otherwise. */
  readonly at?: Instant;
  /** False for mail that the instructor has already, in a mailbox of their own. */
  readonly passOn?: boolean;
}

/** Reads a mail. Throws when it cannot be read. */
export async function readMail(source: Buffer): Promise<ParsedMail> {
  // With the first mail: the parser takes longer to load than the rest of this folder.
  const { simpleParser } = await import('mailparser');
  return simpleParser(source, { skipTextToHtml: true });
}

/** False when it belongs to no nudge. */
export async function receive({ orm, clock }: CourseServices, arrived: Arrived): Promise<boolean> {
  const { mail, tag } = arrived;
  return inTransaction(orm, async (em) => {
    const found = await nudgeOf(em, mail, tag);
    if (!found) return false;
    return alsoCourse(em, found.nudge.course, (tx) => keep(tx, found));
  });

  async function keep(em: Tx<'course'>, { nudge, fromThirdParty }: FoundNudge): Promise<boolean> {
    const messageId = (mail.messageId ?? `<none-${crypto.randomUUID()}>`).slice(0, 500);
    if ((await em.count(ReplyRow, { course: nudge.course, messageId })) > 0) return true;
    const from = addressOf(mail.from);
    const kind = replyKind({ envelopeFrom: arrived.envelopeFrom, headers: headersOf(mail) });
    const text = textOf(mail, kind === 'bounce');
    const passOn = kind === 'reply' && arrived.passOn !== false && (await mayForward(em, nudge.id, clock.now()));
    const reply = await insertRow(em, replyHolds, {
      course: nudge.course,
      nudge: nudge.id,
      student: kind === 'reply' && !fromThirdParty ? await studentOf(em, nudge, from.address) : null,
      kind,
      at: Math.min(arrived.at ?? Infinity, clock.now()),
      messageId,
      fromName: from.name,
      fromAddress: from.address,
      subject: (mail.subject ?? '').slice(0, 500),
      text: text.slice(0, LONGEST),
    });
    if (kind === 'bounce' && !fromThirdParty && isPermanentBounce(text)) await markBounced(em, nudge, clock.now());
    // A machine's mail is only noted; a person's goes on to the instructor.
    if (passOn) await forward(em, reply, clock.now());
    return true;
  }
}

interface FoundNudge {
  readonly nudge: NudgeRow;
  readonly fromThirdParty: boolean;
}

/** By the tag of the address, else by the Message-ID that the mail answers (RFC 5322 §3.6.4). */
async function nudgeOf(em: Em, mail: ParsedMail, tag: Tag | null): Promise<FoundNudge | null> {
  if (tag !== null) {
    const nudge = await em.findOne(NudgeRow, { id: tag.nudge });
    return nudge && { nudge, fromThirdParty: tag.message !== null };
  }
  const answered = [mail.inReplyTo, ...[mail.references ?? []].flat()].filter((id) => id !== undefined).slice(0, 50);
  if (answered.length === 0) return null;
  const attempt = await em.findOne(
    AttemptRow,
    { messageId: { $in: answered }, nudge: { $ne: null } },
    { orderBy: { id: 'desc' } },
  );
  const message = attempt && (await em.findOne(MessageRow, { id: attempt.message }));
  const nudge = attempt && (await em.findOne(NudgeRow, { id: attempt.nudge }));
  return nudge && { nudge, fromThirdParty: message?.kind !== 'student' };
}

/** The student, when it is their own address that wrote; a third party's words end no spell of theirs. */
async function studentOf(em: Em, nudge: NudgeRow, address: string): Promise<string | null> {
  const person = await em.findOne(PersonRow, { course: nudge.course, key: nudge.student });
  return isSameAddress(person?.email, address) ? nudge.student : null;
}

async function markBounced(em: Tx<'course'>, nudge: NudgeRow, now: Instant): Promise<void> {
  const message = await em.findOne(MessageRow, { nudge: nudge.id, kind: 'student' });
  const person = message && (await em.findOne(PersonRow, { course: nudge.course, key: nudge.student }));
  if (!person || !isSameAddress(person.email, message.address)) return;
  await updateRow(em, personHolds, person, { bouncedAt: now });
}

function textOf(mail: ParsedMail, whole: boolean): string {
  const report = mail.attachments
    .filter((a) => a.contentType === 'message/delivery-status')
    .map((a) => a.content.toString('utf8'));
  const text = [mail.text ?? '', ...report].join('\n').trim();
  return whole ? text : withoutQuotes(text);
}

function addressOf(header: AddressObject | undefined): { name: string; address: string } {
  const first = header?.value[0];
  return { name: first?.name ?? '', address: first?.address ?? '' };
}
