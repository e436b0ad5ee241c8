/** The log of acts: who did what, when and from where. What only reads is not in it, what takes data away is. */
import type { Actor } from '@zest-bell/core/access';
import { contract, endpoints, type AnyEndpoint, type NamedEndpoint } from '@zest-bell/core/contract';
import type { Orm, Tx } from '../platform/database/orm.ts';
import { inTransaction } from '../platform/database/transaction.ts';
import { ActRow, actHolds } from './entity.ts';
import { wallClock } from '../platform/process/clock.ts';
import { insertRow } from '../platform/database/writing.ts';

const NAMES: ReadonlyMap<AnyEndpoint, NamedEndpoint> = new Map(endpoints.map((e) => [e.endpoint, e]));
/** They take data away, though they change nothing; and leaving, which needs no more than any access. */
const ALSO = new Set<AnyEndpoint>([
  ...[contract.exports.start, contract.exports.rules, contract.exports.file],
  ...[contract.erasure.data, contract.people.actsFile, contract.people.leave],
]);

/** What a platform tells all day is told of by its source. */
export const isAct = (endpoint: AnyEndpoint): boolean =>
  ALSO.has(endpoint) ||
  (endpoint.method !== 'GET' && !['course.read', 'counts.read', 'key', 'open'].includes(endpoint.needs));

/** As the log names a request. */
export const actOf = (endpoint: AnyEndpoint): string => {
  const { module, name } = NAMES.get(endpoint)!;
  return `${module}.${name}`;
};

export interface AuditEntry {
  readonly course: number | null;
  readonly by: Actor;
  readonly act: string;
  readonly about: Readonly<Record<string, string>>;
  readonly from: string;
}

/** Within the transaction of the act itself. */
export const noteAct = (tx: Tx, act: AuditEntry, now = wallClock()): Promise<ActRow> =>
  insertRow(tx, actHolds, { ...act, at: now });

export const keepAct = (orm: Orm, act: AuditEntry): Promise<void> =>
  inTransaction(orm, async (tx) => {
    await noteAct(tx, act);
  });
