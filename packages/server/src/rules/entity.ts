import { defineEntity, p, type InferEntity } from '@mikro-orm/core';
import { RULE_STATUSES } from '@zest-bell/core/rules';
import { instantColumn, oneOf } from '../platform/database/columns.ts';
import type { Actor } from '@zest-bell/core/access';
import type { Instant } from '@zest-bell/core/time';
import {
  account,
  address,
  type ErasedStudent,
  holds,
  key,
  personIds,
  plain,
  redactedIn,
} from '../platform/database/holds.ts';

/**
 * A rule as it is. The document is the rule format without its status, which is beside it alone; `format` is its
 * version for upgrades when it is read.
 */
/** What somebody drafted beside a rule that is on. */
export interface RuleDraft {
  readonly document: object;
  /** The version of the rule that they had before them. */
  readonly version: number;
  readonly by: Actor;
  readonly at: Instant;
}

export const RuleRow = defineEntity({
  name: 'RuleRow',
  tableName: 'rule',
  properties: {
    id: p.integer().primary(),
    course: p.integer(),
    key: p.string(),
    position: p.integer(),
    status: oneOf(RULE_STATUSES),
    /** Grows with every change; names a row of RuleVersionRow. */
    version: p.integer(),
    format: p.integer().default(1),
    document: p.json<object>(),
    /** When it looks next; null while it is off or has no round left. */
    nextRoundAt: instantColumn().nullable(),
    changedAt: instantColumn(),
    /** Put away: it is in no list, and cannot be on. */
    archivedAt: instantColumn().nullable(),
    /** Changes of a rule that is on by somebody who may not run rules: they count for nothing until somebody who may publishes them. */
    drafted: p.json<RuleDraft | null>().nullable(),
    /** The account that it writes as: who first turned it on. 0 for the course itself, null for a rule that never was on. */
    owner: p.integer().nullable(),
    /** Addresses outside the institution that got a yes, in lower case. */
    outside: p.json<readonly string[]>().default('[]'),
  },
  uniques: [{ properties: ['course', 'key'] }],
  indexes: [{ properties: ['status', 'nextRoundAt'] }],
});
export type RuleRow = Readonly<InferEntity<typeof RuleRow>>;

/** What a rule said at each version, and who changed it. */
export const RuleVersionRow = defineEntity({
  name: 'RuleVersionRow',
  tableName: 'rule_version',
  properties: {
    id: p.integer().primary(),
    rule: p.integer(),
    version: p.integer(),
    // Each version says its own; the table has this for rows of before there was the column.
    status: oneOf(RULE_STATUSES).default('draft'),
    document: p.json<object>(),
    savedAt: instantColumn(),
    savedBy: p.integer().nullable(),
  },
  uniques: [{ properties: ['rule', 'version'] }],
});
export type RuleVersionRow = Readonly<InferEntity<typeof RuleVersionRow>>;

/** A rule, or a draft with one, that makes no exception for them and does not name them. */
export function withoutExcepted<T extends object | null>(document: T, gone: ErasedStudent): T {
  const { audience } = (document ?? {}) as { readonly audience?: { readonly except?: readonly string[] } };
  const except = audience?.except?.filter((id) => id !== gone.id);
  return redactedIn(except ? { ...document, audience: { ...audience, except } } : document, gone);
}

export const ruleHolds = holds(RuleRow, {
  owner: ['course'],
  columns: {
    id: key,
    course: key,
    key: key,
    position: plain,
    status: plain,
    version: plain,
    format: plain,
    nextRoundAt: plain,
    changedAt: plain,
    archivedAt: plain,
    owner: account,
    document: personIds.searched(withoutExcepted<object>),
    drafted: personIds.searched(
      (drafted: RuleDraft | null, gone) => drafted && { ...drafted, document: withoutExcepted(drafted.document, gone) },
    ),
    outside: address.searched((all: readonly string[], { isNamed }) => all.filter((one) => !isNamed(one))),
  },
});
export const ruleVersionHolds = holds(RuleVersionRow, {
  owner: ['course'],
  course: { column: 'rule', of: ruleHolds },
  columns: {
    id: key,
    rule: key,
    version: plain,
    status: plain,
    savedAt: plain,
    savedBy: account,
    document: personIds.searched(withoutExcepted<object>),
  },
});
