import { defineEntity, p, type InferEntity } from '@mikro-orm/core';
import { FORWARD_STATES } from '@zest-bell/core/exchange';
import { instantColumn, oneOf } from '../../platform/database/columns.ts';

export const PLAIN_MAIL_KINDS = ['answer', 'digest'] as const;

/** A mail that is no nudge: the instructor's answer to a reply, or the summary of their courses. */
export const PlainMailRow = defineEntity({
  name: 'PlainMailRow',
  tableName: 'plain_mail',
  properties: {
    id: p.integer().primary(),
    kind: oneOf(PLAIN_MAIL_KINDS),
    /** The course whose sender it comes from: it waits while mail of this course is stopped. */
    course: p.integer(),
    /** The reply that it answers; null for a summary. */
    reply: p.integer().nullable().index(),
    /** The nudge that the answered reply is about; null for a summary. */
    nudge: p.integer().nullable(),
    by: p.string(),
    at: instantColumn(),
    toName: p.string(),
    toAddress: p.string(),
    subject: p.text(),
    text: p.text(),
    messageId: p.string(),
    /** The mail that it answers, with its angle brackets. */
    inReplyTo: p.string().nullable(),
    forward: oneOf(FORWARD_STATES).nullable(),
    forwardAt: instantColumn().nullable(),
    attempts: p.integer().default(0),
    /** What it waits with while it can be taken back; null for what waits for nobody. */
    sending: p.integer().nullable(),
    /** The process that is handing it over. */
    claimedBy: p.string().nullable(),
  },
  indexes: [{ properties: ['forward', 'forwardAt'] }],
});
export type PlainMailRow = InferEntity<typeof PlainMailRow>;
