import { defineEntity, p, type InferEntity } from '@mikro-orm/core';
import { instantColumn } from '../database/columns.ts';
import { holds, key, plain } from '../database/holds.ts';

/** Work that one process at a time does, until then by the database's clock. */
export const LeaseRow = defineEntity({
  name: 'LeaseRow',
  tableName: 'lease',
  properties: {
    /** What is done. */
    name: p.string().primary(),
    /** Who does it: a process. */
    holder: p.string(),
    until: instantColumn(),
  },
});
export type LeaseRow = Readonly<InferEntity<typeof LeaseRow>>;

export const leaseHolds = holds(LeaseRow, { owner: ['process'], columns: { name: key, holder: plain, until: plain } });
