/**
 * Links that work once and expire, for invitations and forgotten passwords, and the addresses that an account has proven to be its own.
 * Links go by the real clock and lead to the installation's own address.
 */
import { DAY, HOUR, type Instant } from '@zest-bell/core/time';
import { AppError } from '../platform/errors/errors.ts';
import type { Em, Tx } from '../platform/database/orm.ts';
import {
  Account,
  LinkRow,
  ProvenAddressRow,
  accountHolds,
  linkHolds,
  mailOf,
  passkeyHolds,
  provenAddressHolds,
  recoveryHolds,
  sessionHolds,
  tokenHolds,
} from './entity.ts';
import { directoryAccountHolds } from './directory/entity.ts';
import { hashOf, newSecret } from './passwords.ts';
import { wallClock } from '../platform/process/clock.ts';
import { insertRow, removeRows, updateRow, updateRows } from '../platform/database/writing.ts';

export const WORKS_FOR = { invitation: 7 * DAY, password: HOUR } as const;
type LinkKind = keyof typeof WORKS_FOR;
type LinkPurpose = Pick<LinkRow, 'email'> & Partial<Pick<LinkRow, 'course' | 'role' | 'by'>>;

/** Its secret is behind the `#`, which no browser sends to any server and no log keeps. */
export const linkOf = (base: string, kind: LinkKind, secret: string): string => `${base}/${kind}#${secret}`;

/** Makes one, and gives its secret, which is not kept. */
export async function makeLink(tx: Tx, kind: LinkKind, what: LinkPurpose, now: Instant = wallClock()) {
  const secret = newSecret();
  const row = await insertRow(tx, linkHolds, {
    kind,
    ...what,
    hash: hashOf(secret),
    at: now,
    endsAt: now + WORKS_FOR[kind],
  });
  return { id: row.id, secret };
}

/** Throws `linkUnknown` for one that never was, `linkUsed` for one that works no more. */
export async function openLink(em: Em, kind: LinkKind, secret: string, now: Instant = wallClock()): Promise<LinkRow> {
  const row = await em.findOne(LinkRow, { kind, hash: hashOf(secret) });
  if (!row) throw new AppError('linkUnknown');
  if (row.usedAt != null || row.endsAt <= now) throw new AppError('linkUsed');
  return row;
}

/** Of two who use it at once only one does. Throws like `openLink`. */
export async function useLink(tx: Tx, kind: LinkKind, secret: string, now: Instant = wallClock()): Promise<LinkRow> {
  const row = await openLink(tx, kind, secret, now);
  if ((await updateRows(tx, linkHolds, { id: row.id, usedAt: null }, { usedAt: now })) === 0)
    throw new AppError('linkUsed');
  return row;
}

type ProofKind = ProvenAddressRow['how'];

export const isProven = async (em: Em, account: number, address: string): Promise<boolean> =>
  (await em.count(ProvenAddressRow, { account, address: address.toLowerCase() })) > 0;

/** Whether any of several accounts has proven an address. */
export const isProvenByAny = async (em: Em, accounts: readonly number[], address: string): Promise<boolean> =>
  (await em.count(ProvenAddressRow, { account: { $in: [...accounts] }, address: address.toLowerCase() })) > 0;

/** Where mail reaches somebody, if they have proven it; else null. */
export async function provenMailOf(em: Em, row: Account): Promise<string | null> {
  const address = mailOf(row);
  return address !== null && (await isProven(em, row.id, address)) ? address : null;
}

/** Keeps that an address is the account's own. It stays as it was first proven. */
export async function prove(
  tx: Tx<'account'>,
  account: number,
  address: string,
  how: ProofKind,
  now = wallClock(),
): Promise<void> {
  const known = { account, address: address.toLowerCase() };
  if ((await tx.count(ProvenAddressRow, known)) > 0) return;
  await insertRow(tx, provenAddressHolds, { ...known, how, at: now });
}

/**
 * Proves the address of an account by a link that was mailed to it. Where somebody else had seen the link that the account was made
 * with, they may have made it: all that lets somebody in as of before ends, but for the password, which the link sets.
 */
export async function proveByLink(tx: Tx<'account'>, row: Account, now = wallClock()): Promise<void> {
  await prove(tx, row.id, row.email, 'link', now);
  if (row.isUnproven) await endKeys(tx, row, now);
}

/** Ends what lets somebody in to an account, but for its password: sessions, factors, passkeys, tokens, and the directory. */
export async function endKeys(tx: Tx<'account'>, row: Account, now = wallClock()): Promise<void> {
  await updateRow(tx, accountHolds, row, { isUnproven: false, totp: null, totpUsed: null });
  await removeRows(tx, sessionHolds, { account: row.id });
  await removeRows(tx, passkeyHolds, { account: row.id });
  await removeRows(tx, recoveryHolds, { account: row.id });
  await removeRows(tx, directoryAccountHolds, { account: row.id });
  await updateRows(tx, tokenHolds, { madeBy: row.id, revokedAt: null }, { revokedAt: now });
}
