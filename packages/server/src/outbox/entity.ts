import { defineEntity, p, type InferEntity } from '@mikro-orm/core';
import { instantColumn } from '../platform/columns.ts';

/** A server process that hands mail over, and when it was last known to live (by the machine's clock). */
export const WorkerRow = defineEntity({
  name: 'WorkerRow',
  tableName: 'worker',
  properties: {
    id: p.string().primary(),
    aliveAt: instantColumn(),
  },
});
export type WorkerRow = InferEntity<typeof WorkerRow>;
