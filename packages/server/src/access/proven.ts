/** Which addresses an account has shown to be its own, and how. */
import { wallClock } from '../platform/process/clock.ts';
import type { Em, Tx } from '../platform/database/orm.ts';
import {
  Account,
  mailOf,
  ProvenAddressRow,
  provenAddressHolds,
  sessionHolds,
  passkeyHolds,
  recoveryHolds,
  tokenHolds,
  accountHolds,
} from './entity.ts';
import { insertRow, removeRows, updateRows, updateRow } from '../platform/database/writing.ts';

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
 * with, they may have made it: its sessions, factors, passkeys and tokens of before end.
 */
export async function proveByLink(tx: Tx<'account'>, row: Account, now = wallClock()): Promise<void> {
  await prove(tx, row.id, row.email, 'link', now);
  if (!row.isUnproven) return;
  await updateRow(tx, accountHolds, row, { isUnproven: false, totp: null, totpUsed: null });
  await removeRows(tx, sessionHolds, { account: row.id });
  await removeRows(tx, passkeyHolds, { account: row.id });
  await removeRows(tx, recoveryHolds, { account: row.id });
  await updateRows(tx, tokenHolds, { madeBy: row.id, revokedAt: null }, { revokedAt: now });
}
