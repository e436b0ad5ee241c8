import { defineEntity, p, type InferEntity } from '@mikro-orm/core';
import type { RoundSummary } from '@zest-bell/core';
import { instantColumn } from '../platform/columns.ts';

/** What one rule's part of a round came to. */
export interface RoundResult extends Omit<RoundSummary, 'at' | 'trigger'> {
  readonly rule: string;
}

/** One look of a course's rules. Its claim is unique: no two processes decide the same instant. */
export const RoundRow = defineEntity({
  name: 'RoundRow',
  tableName: 'round',
  properties: {
    id: p.integer().primary(),
    course: p.integer(),
    at: instantColumn(),
    trigger: p.string(),
    claim: p.string().unique(),
    results: p.json<readonly RoundResult[]>(),
  },
  indexes: [{ properties: ['course', 'at'] }],
});
export type RoundRow = InferEntity<typeof RoundRow>;
