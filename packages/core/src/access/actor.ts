/**
 * Who did something, as it is kept: an account, a token, or words for anyone who is neither (a file of a folder, a name from before there
 * were accounts). It is opaque, so that nothing shows it unread: a name is asked for when it is shown, and is the name of today.
 */
declare const kept: unique symbol;
export interface Actor {
  readonly [kept]: 'actor';
}

export type ActorRef = { readonly account: number } | { readonly token: number } | { readonly words: string };

const of = (text: string): Actor => text as unknown as Actor;

export const accountActor = (account: number): Actor => of(`account:${account}`);
export const tokenActor = (token: number): Actor => of(`token:${token}`);
/** Somebody without an account, by words. */
export const namedActor = (words: string): Actor => of(words);

export function refOf(actor: Actor): ActorRef {
  const text = actor as unknown as string;
  const [, kind, id] = /^(account|token):([1-9]\d{0,14})$/.exec(text) ?? [];
  if (id === undefined) return { words: text };
  return kind === 'account' ? { account: Number(id) } : { token: Number(id) };
}

/** Their account; null for a token and for words. */
export function accountOf(actor: Actor): number | null {
  const ref = refOf(actor);
  return 'account' in ref ? ref.account : null;
}
