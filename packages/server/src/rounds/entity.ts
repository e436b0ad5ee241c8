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

/** A rule whose round failed, until one succeeds: nothing was decided, nothing was sent. */
export const TroubleRow = defineEntity({
  name: 'TroubleRow',
  tableName: 'round_trouble',
  properties: {
    id: p.integer().primary(),
    course: p.integer(),
    rule: p.string(),
    /** The round that failed first. */
    since: instantColumn(),
    attempts: p.integer(),
    nextTryAt: instantColumn(),
    message: p.text(),
  },
  uniques: [{ properties: ['course', 'rule'] }],
});
export type TroubleRow = InferEntity<typeof TroubleRow>;
