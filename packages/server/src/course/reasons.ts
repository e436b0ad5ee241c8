/** Why somebody changed a rule, a text or the limits, in their own words: for the people they share the course with. */
import { defineEntity, p, type InferEntity } from '@mikro-orm/core';
import { accountActor, type Actor } from '@zest-bell/core/access';
import { REASON_KINDS, type ReasonKind } from '@zest-bell/core/exchange';
import type { Instant } from '@zest-bell/core/time';
import { actorColumn } from '../access/entity.ts';
import { instantColumn, oneOf } from '../platform/database/columns.ts';
import { account, holds, key, notTold, plain, redactedIn, text } from '../platform/database/holds.ts';
import type { Em, Tx } from '../platform/database/orm.ts';
import { insertRow } from '../platform/database/writing.ts';

export const ReasonRow = defineEntity({
  name: 'ReasonRow',
  tableName: 'reason',
  properties: {
    id: p.integer().primary(),
    course: p.integer(),
    what: oneOf(REASON_KINDS),
    /** The key of the rule or the wording; empty for the limits. */
    of: p.string().fieldName('of_key'),
    /** Of a rule: the version that the change made. */
    version: p.integer().nullable(),
    by: actorColumn(),
    /** By the course's clock. */
    at: instantColumn(),
    words: p.text(),
  },
  indexes: [{ properties: ['course', 'at'] }],
});
export type ReasonRow = Readonly<InferEntity<typeof ReasonRow>>;

export const reasonHolds = holds(ReasonRow, {
  owner: ['course'],
  kept: 'goes',
  columns: {
    id: key,
    course: key,
    what: plain,
    of: key,
    version: plain,
    by: account,
    at: plain,
    words: text.both('', redactedIn),
  },
  told: notTold('it says why people who work here changed a rule, a text or a limit'),
});

interface ReasonGiven {
  readonly course: number;
  readonly what: ReasonKind;
  readonly of?: string;
  readonly version?: number;
  readonly account: number;
  readonly at: Instant;
  /** Empty for none. */
  readonly words: string;
}

/** Keeps why something was changed, where somebody has said so. */
export async function keepReason(
  tx: Tx<'course'>,
  { course, what, of = '', version, account: by, at, words }: ReasonGiven,
): Promise<void> {
  if (words === '') return;
  await insertRow(tx, reasonHolds, { course, what, of, version: version ?? null, by: accountActor(by), at, words });
}

/** Why a rule became each of its versions, by version. */
export async function reasonsOfRule(em: Em, course: number, rule: string): Promise<ReadonlyMap<number, string>> {
  const rows = await em.find(ReasonRow, { course, what: 'rule', of: rule }, { disableIdentityMap: true });
  return new Map(rows.map((r) => [r.version!, r.words]));
}

/** Those of a course in a span of time, the latest first; not those of `except`. */
export const reasonsIn = (
  em: Em,
  course: number,
  { from, before, except }: { readonly from: Instant; readonly before?: Instant | undefined; readonly except?: Actor },
): Promise<ReasonRow[]> =>
  em.find(
    ReasonRow,
    {
      course,
      at: { $gte: from, ...(before === undefined ? {} : { $lt: before }) },
      ...(except === undefined ? {} : { by: { $ne: except } }),
    },
    { orderBy: { at: 'desc', id: 'desc' }, limit: MOST, disableIdentityMap: true },
  );
const MOST = 200;
