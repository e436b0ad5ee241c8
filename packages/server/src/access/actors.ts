/** What those who did something are called today. */
import { refOf, type Actor } from '@zest-bell/core/access';
import type { Em } from '../platform/database/orm.ts';
import { Account, TokenRow } from './entity.ts';

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
