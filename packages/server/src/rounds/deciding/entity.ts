import { defineEntity, p, type InferEntity } from '@mikro-orm/core';
import { ROUND_TRIGGERS } from '@zest-bell/core/exchange';
import { instantColumn, oneOf } from '../../platform/database/columns.ts';
import { holds, key, plain, words } from '../../platform/database/holds.ts';

/** One round of one rule over its audience. The claim is unique: no two processes decide the same one. */
export const RoundRow = defineEntity({
  name: 'RoundRow',
  tableName: 'rule_round',
  properties: {
    id: p.integer().primary(),
    course: p.integer(),
    rule: p.string(),
    at: instantColumn(),
    trigger: oneOf(ROUND_TRIGGERS),
    /** The rule and the due instant that it answers, or an id of its own for a round that a person started. */
    claim: p.string().unique(),
    /** The version of the rule that decided. */
    version: p.integer(),
    matched: p.integer().default(0),
    heard: p.integer().default(0),
    held: p.integer().default(0),
    withheld: p.integer().default(0),
    withdrawn: p.integer().default(0),
    /** Rounds that fell while the machine was off or mail was stopped, and that this one makes up for. */
    missed: p.json<readonly number[]>().default('[]'),
  },
  indexes: [{ properties: ['course', 'at'] }, { properties: ['course', 'rule', 'at'] }],
});
export type RoundRow = Readonly<InferEntity<typeof RoundRow>>;

/** A rule with a failed round, until one succeeds: nothing was decided, nothing was sent. */
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
export type TroubleRow = Readonly<InferEntity<typeof TroubleRow>>;

export const roundHolds = holds(RoundRow, {
  owner: ['course'],
  columns: {
    id: key,
    course: key,
    rule: key,
    at: plain,
    trigger: plain,
    claim: key,
    version: plain,
    matched: plain,
    heard: plain,
    held: plain,
    withheld: plain,
    withdrawn: plain,
    missed: plain,
  },
});
export const troubleHolds = holds(TroubleRow, {
  owner: ['course'],
  columns: { id: key, course: key, rule: key, since: plain, attempts: plain, nextTryAt: plain, message: words },
});
