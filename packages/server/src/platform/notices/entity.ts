import { defineEntity, p, type InferEntity } from '@mikro-orm/core';
import { MACHINE_TROUBLES } from '@zest-bell/core/exchange';
import { instantColumn, oneOf } from '../database/columns.ts';
import { holds, key, plain } from '../database/holds.ts';

/** A clock that was set. */
export interface ClockNotice {
  /** What it said before and after. */
  readonly from: number;
  readonly to: number;
  /** The last round that was held before the step was seen. */
  readonly lastRound: number;
}

/** A notice from a process to administrators. It ends on its own once that process is gone. */
export const NoticeRow = defineEntity({
  name: 'NoticeRow',
  tableName: 'notice',
  properties: {
    /** What it is about, and of which machine: there is one of each. */
    name: p.string().primary(),
    kind: oneOf(MACHINE_TROUBLES),
    since: instantColumn(),
    until: instantColumn(),
    /** One sentence or two. */
    says: p.text(),
    clock: p.json<ClockNotice>().nullable(),
  },
});
export type NoticeRow = Readonly<InferEntity<typeof NoticeRow>>;

export const noticeHolds = holds(NoticeRow, {
  owner: ['process'],
  columns: { name: key, kind: plain, since: plain, until: plain, says: plain, clock: plain },
});
