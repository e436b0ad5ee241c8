import { defineEntity, p, type InferEntity } from '@mikro-orm/core';
import { MAIL_TROUBLES } from '@zest-bell/core/nudges';
import { instantColumn, oneOf } from '../../platform/database/columns.ts';
import { holds, key, plain, words } from '../../platform/database/holds.ts';

/** A server process that hands mail over, and when it was last known to live (by the machine's clock). */
export const WorkerRow = defineEntity({
  name: 'WorkerRow',
  tableName: 'worker',
  properties: { id: p.string().primary(), aliveAt: instantColumn() },
});
export type WorkerRow = Readonly<InferEntity<typeof WorkerRow>>;

/** Why mail cannot leave, until some does: nothing that waits is failed for it. */
export const MailTroubleRow = defineEntity({
  name: 'MailTroubleRow',
  tableName: 'mail_trouble',
  properties: {
    /** The course with the refused sender; 0 for the mail server as a whole. */
    course: p.integer().primary().autoincrement(false),
    trouble: oneOf(MAIL_TROUBLES),
    /** The mail server's own words. */
    response: p.text(),
    since: instantColumn(),
    tries: p.integer(),
    nextTryAt: instantColumn(),
  },
});
export type MailTroubleRow = Readonly<InferEntity<typeof MailTroubleRow>>;

export const workerHolds = holds(WorkerRow, { owner: ['process'], columns: { id: key, aliveAt: plain } });
export const mailTroubleHolds = holds(MailTroubleRow, {
  owner: ['process'],
  columns: { course: key, trouble: plain, response: words, since: plain, tries: plain, nextTryAt: plain },
});
