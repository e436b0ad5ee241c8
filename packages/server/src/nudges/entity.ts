import { defineEntity, p, type InferEntity } from '@mikro-orm/core';
import type { LeafEvidence } from '@zest-bell/core';
import { instantColumn } from '../platform/columns.ts';

/** One decision to write about one student for a reason. */
export const NudgeRow = defineEntity({
  name: 'NudgeRow',
  tableName: 'nudge',
  properties: {
    id: p.integer().primary(),
    course: p.integer(),
    /** Rule, student and round: the store refuses a second one. */
    idempotencyKey: p.string().unique(),
    rule: p.string().nullable(),
    ruleVersion: p.integer(),
    student: p.string(),
    roundAt: instantColumn(),
    step: p.integer(),
    spellStart: instantColumn(),
    /** The state of the student's message, or of the first one if the student gets none. */
    state: p.string(),
    /** Why it was withdrawn. */
    reason: p.string().nullable(),
    toStudent: p.boolean(),
    wording: p.string(),
    evidence: p.json<readonly LeafEvidence[]>(),
  },
  indexes: [{ properties: ['course', 'roundAt'] }, { properties: ['course', 'student'] }],
});
export type NudgeRow = InferEntity<typeof NudgeRow>;

/** One mail of a nudge, to the student or to a third party. */
export const MessageRow = defineEntity({
  name: 'MessageRow',
  tableName: 'message',
  properties: {
    id: p.integer().primary(),
    nudge: p.integer().index(),
    course: p.integer(),
    kind: p.string(),
    /** As the step named them: whose words they read; null for messages of before that was kept. */
    reader: p.string().nullable(),
    name: p.string(),
    address: p.string(),
    state: p.string(),
    sendAt: instantColumn(),
    attempts: p.integer().default(0),
    /** Which of the wording's texts it was made from; null until it was made. */
    variant: p.integer().nullable(),
    /** The process that is handing it over. */
    claimedBy: p.string().nullable(),
    settledAt: instantColumn().nullable(),
  },
  indexes: [{ properties: ['state', 'sendAt'] }],
});
export type MessageRow = InferEntity<typeof MessageRow>;

/** Refusals of one limit in one spell: a single line however many rounds repeat it. */
export const RefusalRow = defineEntity({
  name: 'RefusalRow',
  tableName: 'refusal',
  properties: {
    id: p.integer().primary(),
    course: p.integer(),
    rule: p.string(),
    student: p.string(),
    spellStart: instantColumn(),
    step: p.integer(),
    reason: p.string(),
    firstRound: instantColumn(),
    lastRound: instantColumn(),
    rounds: p.integer(),
    evidence: p.json<readonly LeafEvidence[]>(),
  },
  uniques: [{ properties: ['course', 'rule', 'student', 'spellStart', 'step', 'reason'] }],
});
export type RefusalRow = InferEntity<typeof RefusalRow>;
