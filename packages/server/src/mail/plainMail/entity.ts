import { defineEntity, p, type InferEntity } from '@mikro-orm/core';
import { instantColumn, oneOf } from '../../platform/database/columns.ts';
import { actorColumn } from '../../access/entity.ts';
import { account, holds, key, plain, redactedIn, text, through } from '../../platform/database/holds.ts';

const PLAIN_MAIL_KINDS = ['answer', 'forward', 'digest'] as const;

/**
 * What a mail says that is no nudge: the instructor's answer to a reply, a reply that is passed on to them, or the summary of their
 * courses. Its way out is a row of `message`, like any other's.
 */
export const PlainMailRow = defineEntity({
  name: 'PlainMailRow',
  tableName: 'plain_mail',
  properties: {
    id: p.integer().primary(),
    kind: oneOf(PLAIN_MAIL_KINDS),
    /** The course of its sender: it waits while mail of this course is stopped. */
    course: p.integer(),
    /** The reply that it answers or passes on; null for a summary. */
    reply: p.integer().nullable().index(),
    /** The nudge that the reply is about; null for a summary. */
    nudge: p.integer().nullable(),
    by: actorColumn(),
    at: instantColumn(),
    /** Empty for what is passed on: it says what the reply says. */
    subject: p.text(),
    text: p.text(),
    messageId: p.string(),
    /** The mail that it answers, with its angle brackets. */
    inReplyTo: p.string().nullable(),
  },
  indexes: [{ properties: ['nudge', 'kind'] }],
});
export type PlainMailRow = Readonly<InferEntity<typeof PlainMailRow>>;

export const plainMailHolds = holds(PlainMailRow, {
  owner: ['course', 'account', 'claim'],
  columns: {
    id: key,
    kind: plain,
    course: key,
    reply: key,
    nudge: key,
    by: account,
    at: plain,
    messageId: plain,
    // A summary may name anybody.
    subject: text.both('', redactedIn),
    text: text.both('', redactedIn),
    inReplyTo: plain,
  },
  about: [through('nudge', 'NudgeRow')],
  kept: 'emptied',
  told: 'answers',
});
