/** Tokens of a course: how a program comes in. They are kept as hashes, and go by the real clock. */
import { createHash, randomBytes } from 'node:crypto';
import type { Capability } from '@zest-bell/core/access';
import { MINUTE } from '@zest-bell/core/time';
import type { Request } from 'express';
import type { Em, Orm, Tx } from '../platform/database/orm.ts';
import { inTransaction } from '../platform/database/transaction.ts';
import { TokenRow } from './entity.ts';

export const tokenHash = (token: string): string => createHash('sha256').update(token).digest('hex');

/** What a course's own data page makes and replaces, by name. */
export const FEED_TOKENS = { activity: 'Activity', statements: 'Statements' } as const;
const MAY_FEED: readonly Capability[] = ['data.write'];

/** The secret in a header `Authorization`: a bearer token (RFC 6750, 2.1), or the password of a name (RFC 7617). */
export function bearerOf(req: Request): string | null {
  return /^Bearer (\S+)$/i.exec(req.get('authorization') ?? '')?.[1] ?? null;
}

export function basicPasswordOf(req: Request): string | null {
  const [, encoded] = /^Basic ([A-Za-z0-9+/=]+)$/i.exec(req.get('authorization') ?? '') ?? [];
  if (encoded === undefined) return null;
  const pair = Buffer.from(encoded, 'base64').toString('utf8');
  return pair.includes(':') ? pair.slice(pair.indexOf(':') + 1) : null;
}

/** Null for one that never was, has ended or was revoked. */
export async function tokenOf(em: Em, secret: string, now = Date.now()): Promise<TokenRow | null> {
  const row = await em.findOne(TokenRow, { hash: tokenHash(secret), revokedAt: null }, { disableIdentityMap: true });
  return row && (row.endsAt == null || row.endsAt > now) ? row : null;
}

/** When it was last used, to the minute: a program that asks often writes no more than that. */
export async function used(orm: Orm, token: TokenRow, now = Date.now()): Promise<void> {
  if (token.usedAt != null && now - token.usedAt < MINUTE) return;
  await inTransaction(orm, (tx) => tx.nativeUpdate(TokenRow, { id: token.id }, { usedAt: now }));
}

export interface NewToken {
  readonly course: number;
  readonly name: string;
  readonly capabilities: readonly Capability[];
  readonly madeBy: number | null;
  readonly endsAt?: number | null;
}

/** Makes one, and gives its secret, which is not kept. */
export async function makeToken(tx: Tx, token: NewToken): Promise<{ id: number; secret: string }> {
  const secret = randomBytes(24).toString('base64url');
  const row = tx.create(TokenRow, { ...token, hash: tokenHash(secret), madeAt: Date.now() });
  await tx.flush();
  return { id: row.id, secret };
}

/** The one with which a platform feeds a course, in place of the one before. */
export async function replaceFeedToken(tx: Tx, course: number, of: keyof typeof FEED_TOKENS, madeBy: number) {
  const name = FEED_TOKENS[of];
  await tx.nativeUpdate(TokenRow, { course, name, revokedAt: null }, { revokedAt: Date.now() });
  return makeToken(tx, { course, name, capabilities: MAY_FEED, madeBy });
}

export const hasFeedToken = async (em: Em, course: number, of: keyof typeof FEED_TOKENS): Promise<boolean> =>
  (await em.count(TokenRow, { course, name: FEED_TOKENS[of], revokedAt: null })) > 0;

/** One whose secret is known already. */
export const keepFeedToken = (tx: Tx, course: number, hash: string) =>
  tx.create(TokenRow, {
    ...{ course, hash, name: FEED_TOKENS.activity, capabilities: MAY_FEED },
    ...{ madeBy: null, madeAt: Date.now() },
  });

export const endTokensOf = (tx: Tx, course: number, account: number): Promise<number> =>
  tx.nativeUpdate(TokenRow, { course, madeBy: account, revokedAt: null }, { revokedAt: Date.now() });
