/**
 * The audit log: who did what, when and from where, and what those people and programs are called today. Requests that only read are
 * not in it; those that take data away are.
 */
import { type Actor, refOf } from '@zest-bell/core/access';
import { type AnyEndpoint, type NamedEndpoint, contract, endpoints } from '@zest-bell/core/contract';
import type { Em, Orm, Tx } from '../platform/database/orm.ts';
import { inTransaction } from '../platform/database/transaction.ts';
import { Account, ActRow, TokenRow, actHolds } from './entity.ts';
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

/** Nobody is called nothing. */
export type ActorName = (actor: Actor | null | undefined) => string;

/** Reads who they are, and nobody else: nothing if there is nobody. */
export async function actorNames(em: Em, actors: Iterable<Actor | null | undefined>): Promise<ActorName> {
  const refs = [...new Set(actors)].flatMap((actor) => (actor == null ? [] : [refOf(actor)]));
  const tokens = await tokensOf(
    em,
    refs.flatMap((r) => ('token' in r ? [r.token] : [])),
  );
  const accounts = [
    ...refs.flatMap((r) => ('account' in r ? [r.account] : [])),
    ...[...tokens.values()].flatMap((t) => t.madeBy ?? []),
  ];
  const names = await accountNames(em, accounts);
  const nameOf = (account: number) => names.get(account) ?? 'somebody who has no account any more';
  return (actor) => {
    if (actor == null) return '';
    const ref = refOf(actor);
    if ('words' in ref) return ref.words;
    if ('account' in ref) return nameOf(ref.account);
    const token = tokens.get(ref.token);
    if (!token) return 'a token that is gone';
    return token.madeBy == null ? `token ${token.name}` : `token ${token.name} of ${nameOf(token.madeBy)}`;
  };
}

async function tokensOf(em: Em, ids: readonly number[]): Promise<Map<number, Pick<TokenRow, 'name' | 'madeBy'>>> {
  if (ids.length === 0) return new Map();
  const fields = ['id', 'name', 'madeBy'] as const;
  const rows = await em.find(TokenRow, { id: { $in: [...ids] } }, { fields, disableIdentityMap: true });
  return new Map(rows.map((t) => [t.id, t]));
}

async function accountNames(em: Em, ids: readonly number[]): Promise<Map<number, string>> {
  if (ids.length === 0) return new Map();
  const fields = ['id', 'name'] as const;
  const rows = await em.find(Account, { id: { $in: [...new Set(ids)] } }, { fields, disableIdentityMap: true });
  return new Map(rows.map((a) => [a.id, a.name]));
}
