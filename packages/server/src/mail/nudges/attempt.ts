/** The rows of the Send log: each time that a message was handed over, or was to be. */
import { defineEntity, p, type InferEntity } from '@mikro-orm/core';
import type { LeafEvidence } from '@zest-bell/core/conditions';
import { ATTEMPT_OUTCOMES } from '@zest-bell/core/exchange';
import type { SendingDetails } from '../../wording/sending.ts';
import { instantColumn, oneOf } from '../../platform/database/columns.ts';
import {
  account,
  address,
  facts,
  holds,
  key,
  name,
  plain,
  sharing,
  text,
  through,
} from '../../platform/database/holds.ts';

/**
 * One attempt to hand a message over, with exactly what was handed over. Written before the hand-over with the outcome
 * `handing` and completed after it, so that a crash in between leaves its trace.
 */
export const AttemptRow = defineEntity({
  name: 'AttemptRow',
  tableName: 'attempt',
  properties: {
    id: p.integer().primary(),
    course: p.integer(),
    message: p.integer().index(),
    /** Null for a mail that is no nudge. */
    nudge: p.integer().nullable().index(),
    at: instantColumn(),
    outcome: oneOf(ATTEMPT_OUTCOMES),
    response: p.text(),
    messageId: p.string().index(),
    recipientName: p.string(),
    address: p.string(),
    fromAddress: p.string(),
    replyTo: p.string(),
    subject: p.text(),
    body: p.text(),
    html: p.text(),
    /** Names of its attachments. */
    files: p.json<readonly string[]>().default('[]'),
    /** How it left beyond its words; null for those of before that was kept, and for mail that is no nudge. */
    sentWith: p.json<SendingDetails | null>().nullable(),
    /** The facts at the hand-over. */
    evidence: p.json<readonly LeafEvidence[]>(),
  },
  indexes: [{ properties: ['course', 'at'] }],
});
export type AttemptRow = Readonly<InferEntity<typeof AttemptRow>>;

export const attemptHolds = holds(AttemptRow, {
  owner: ['course', 'claim'],
  columns: {
    id: key,
    course: key,
    message: key,
    nudge: key,
    at: plain,
    outcome: plain,
    messageId: plain,
    recipientName: name.emptied('a student'),
    address: address.emptied(''),
    fromAddress: account,
    replyTo: address.emptied(''),
    subject: text.emptied(''),
    body: text.emptied(''),
    html: text.emptied(''),
    files: text.emptied([]),
    sentWith: facts.emptied(null),
    evidence: facts.emptied([]),
    response: text.emptied(''),
  },
  // A mail that lists several students says the same in the log of each of them.
  about: [
    through('nudge', 'NudgeRow'),
    through('message', 'MessageRow'),
    sharing('messageId', ['subject', 'body', 'html']),
  ],
  kept: 'emptied',
  told: 'mail',
});
