import { defineEntity, p, type InferEntity } from '@mikro-orm/core';
import { MACHINE_TROUBLES } from '@zest-bell/core/exchange';
import { instantColumn, oneOf } from '../database/columns.ts';

/** A notice of a process for whoever keeps the installation. It ends by itself where the process that gave it is gone. */
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
    /** Of a clock that was set: what it said before and after. */
    clock: p.json<{ readonly from: number; readonly to: number }>().nullable(),
  },
});
export type NoticeRow = InferEntity<typeof NoticeRow>;
