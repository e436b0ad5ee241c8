import { defineEntity, p, type InferEntity } from '@mikro-orm/core';
import { instantColumn } from '../database/columns.ts';
import { holds, key, plain } from '../database/holds.ts';

/** How often something was asked within a while. */
export const HitsRow = defineEntity({
  name: 'HitsRow',
  tableName: 'hits',
  properties: {
    /** What is limited, and who asks. */
    name: p.string().primary(),
    count: p.integer(),
    /** Counted anew from then on, by the database's clock. */
    until: instantColumn().index(),
  },
});
export type HitsRow = Readonly<InferEntity<typeof HitsRow>>;

export const hitsHolds = holds(HitsRow, { owner: ['process'], columns: { name: key, count: plain, until: plain } });
