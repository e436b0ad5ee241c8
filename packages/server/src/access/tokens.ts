/** Tokens of a course: how a program comes in. They are kept as hashes, and go by the real clock. */
import type { Capability } from '@zest-bell/core/access';
import { MINUTE } from '@zest-bell/core/time';
import type { Request } from 'express';
import type { Em, Orm, Tx } from '../platform/database/orm.ts';
import { hashOf, newSecret } from './passwords.ts';
import { runBeside } from '../platform/work/runBeside.ts';
import { inTransaction } from '../platform/database/transaction.ts';
import { type FEEDS, TokenRow, tokenHolds } from './entity.ts';
import { wallClock } from '../platform/process/clock.ts';
import { insertRow, updateRows } from '../platform/database/writing.ts';

type Feed = (typeof FEEDS)[number];
/** What those are called that a course's own data page makes and replaces. */
const FEED_NAMES: Readonly<Record<Feed, string>> = { activity: 'Activity', statements: 'Statements' };
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
export async function tokenOf(em: Em, secret: string, now = wallClock()): Promise<TokenRow | null> {
  const row = await em.findOne(TokenRow, { hash: hashOf(secret), revokedAt: null }, { disableIdentityMap: true });
  return row && (row.endsAt == null || row.endsAt > now) ? row : null;
}

/** When it was last used, to the minute; no request waits for it. */
export function used(orm: Orm, { id, usedAt }: TokenRow, now = wallClock()): void {
  if (usedAt != null && now - usedAt < MINUTE) return;
  runBeside(orm, `token ${id}`, () => inTransaction(orm, (tx) => updateRows(tx, tokenHolds, { id }, { usedAt: now })));
}

export interface NewToken {
  readonly course: number;
  readonly name: string;
  readonly capabilities: readonly Capability[];
  readonly madeBy: number | null;
  readonly endsAt?: number | null;
  readonly feeds?: Feed;
}

/** Makes one, and gives its secret, which is not kept. */
export async function makeToken(tx: Tx, token: NewToken): Promise<{ id: number; secret: string }> {
  const secret = newSecret();
  const row = await insertRow(tx, tokenHolds, { ...token, hash: hashOf(secret), madeAt: wallClock() });
  return { id: row.id, secret };
}

/** The one with which a platform feeds a course, in place of the one before. */
export async function replaceFeedToken(tx: Tx, course: number, feeds: Feed, madeBy: number) {
  await updateRows(tx, tokenHolds, { course, feeds, revokedAt: null }, { revokedAt: wallClock() });
  return makeToken(tx, { course, name: FEED_NAMES[feeds], capabilities: MAY_FEED, madeBy, feeds });
}

export const hasFeedToken = async (em: Em, course: number, feeds: Feed): Promise<boolean> =>
  (await em.count(TokenRow, { course, feeds, revokedAt: null })) > 0;

/** A secret that is known already. */
export const keepFeedToken = (tx: Tx, course: number, hash: string) =>
  insertRow(tx, tokenHolds, {
    course,
    hash,
    name: FEED_NAMES.activity,
    capabilities: MAY_FEED,
    feeds: 'activity',
    madeBy: null,
    madeAt: wallClock(),
  });

export const endTokensOf = (tx: Tx, course: number, account: number): Promise<number> =>
  updateRows(tx, tokenHolds, { course, madeBy: account, revokedAt: null }, { revokedAt: wallClock() });
