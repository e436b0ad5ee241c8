/** What those who did something are called today. */
import { refOf, type Actor } from '@zest-bell/core/access';
import type { Em } from '../platform/database/orm.ts';
import { Account, TokenRow } from './entity.ts';

/** Nobody is called nothing. */
export type ActorName = (actor: Actor | null | undefined) => string;

export async function actorNames(em: Em): Promise<ActorName> {
  const accounts = await em.find(Account, {}, { fields: ['id', 'name'], disableIdentityMap: true });
  const tokens = await em.find(TokenRow, {}, { fields: ['id', 'name', 'madeBy'], disableIdentityMap: true });
  const names = new Map(accounts.map((a) => [a.id, a.name]));
  const accountName = (id: number | null | undefined) => names.get(id ?? 0) ?? 'somebody who has no account any more';
  const ofTokens = new Map(
    tokens.map((t) => [t.id, t.madeBy == null ? `token ${t.name}` : `token ${t.name} of ${accountName(t.madeBy)}`]),
  );
  return (actor) => {
    if (actor == null) return '';
    const ref = refOf(actor);
    if ('account' in ref) return accountName(ref.account);
    if ('token' in ref) return ofTokens.get(ref.token) ?? 'a token that is gone';
    return ref.words;
  };
}
