import { defineEntity, p, type InferEntity } from '@mikro-orm/core';
import { REPLY_KINDS } from '@zest-bell/core/nudges';
import { instantColumn, oneOf } from '../../platform/database/columns.ts';
import { actorColumn } from '../../access/entity.ts';
import {
  account,
  address,
  holds,
  key,
  name,
  personId,
  plain,
  redactedIn,
  text,
  through,
} from '../../platform/database/holds.ts';

/** A mail that came back after a nudge: an answer, an automatic reply, or a bounce. */
export const ReplyRow = defineEntity({
  name: 'ReplyRow',
  tableName: 'reply',
  properties: {
    id: p.integer().primary(),
    course: p.integer(),
    nudge: p.integer().index(),
    /** The student who wrote it; null for anybody else. */
    student: p.string().nullable(),
    kind: oneOf(REPLY_KINDS),
    at: instantColumn(),
    /** Of the mail itself: the same one twice changes nothing. */
    messageId: p.string(),
    fromName: p.string(),
    fromAddress: p.string(),
    subject: p.text(),
    text: p.text(),
    /** When somebody said that nothing more is to be done about it, or answered it. */
    settledAt: instantColumn().nullable(),
    settledBy: actorColumn().nullable(),
  },
  uniques: [{ properties: ['course', 'messageId'] }],
  indexes: [{ properties: ['course', 'at'] }, { properties: ['course', 'student', 'kind'] }],
});
export type ReplyRow = Readonly<InferEntity<typeof ReplyRow>>;

/** How far a mailbox of the institution has been read. */
export const MailboxRow = defineEntity({
  name: 'MailboxRow',
  tableName: 'mailbox',
  properties: {
    /** Account, server and folder. */
    id: p.string().primary(),
    /** RFC 9051 §2.3.1.1: with another one, the numbers mean other mails. */
    uidValidity: p.string(),
    lastUid: p.integer(),
    readAt: instantColumn(),
    /** Why it cannot be read now; null while it can. */
    trouble: p.text().nullable(),
    /** Mails in it that could not be read, and were passed over. */
    setAside: p.json<readonly { readonly uid: number; readonly at: number; readonly why: string }[]>().default('[]'),
  },
});
export type MailboxRow = Readonly<InferEntity<typeof MailboxRow>>;

export const replyHolds = holds(ReplyRow, {
  owner: ['course'],
  columns: {
    id: key,
    course: key,
    nudge: key,
    student: personId,
    kind: plain,
    at: plain,
    messageId: text.emptied(''),
    fromName: name.emptied(''),
    fromAddress: address.emptied(''),
    subject: text.both('', redactedIn),
    text: text.both('', redactedIn),
    settledAt: plain,
    settledBy: account,
  },
  about: [through('nudge', 'NudgeRow')],
  erased: 'goes',
  kept: 'goes',
  told: 'replies',
});
export const mailboxHolds = holds(MailboxRow, {
  owner: ['process'],
  columns: { id: key, uidValidity: plain, lastUid: plain, readAt: plain, trouble: plain, setAside: plain },
});
