/** Which addresses an account has shown to be its own, and how. */
import { wallClock } from '../platform/process/clock.ts';
import type { Em, Tx } from '../platform/database/orm.ts';
import { Account, mailOf, PasskeyRow, ProvenAddressRow, RecoveryRow, SessionRow, TokenRow } from './entity.ts';

type How = ProvenAddressRow['how'];

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
export async function prove(tx: Tx, account: number, address: string, how: How, now = wallClock()): Promise<void> {
  const known = { account, address: address.toLowerCase() };
  if ((await tx.count(ProvenAddressRow, known)) > 0) return;
  await tx.insert(ProvenAddressRow, { ...known, how, at: now });
}

/**
 * Proves the address of an account by a link that was mailed to it. Where somebody else had seen the link that the account was made
 * with, they may have made it: its sessions, factors, passkeys and tokens of before end.
 */
export async function proveByLink(tx: Tx, row: Account, now = wallClock()): Promise<void> {
  await prove(tx, row.id, row.email, 'link', now);
  if (!row.isUnproven) return;
  row.isUnproven = false;
  row.totp = null;
  row.totpUsed = null;
  await tx.flush();
  await tx.nativeDelete(SessionRow, { account: row.id });
  await tx.nativeDelete(PasskeyRow, { account: row.id });
  await tx.nativeDelete(RecoveryRow, { account: row.id });
  await tx.nativeUpdate(TokenRow, { madeBy: row.id, revokedAt: null }, { revokedAt: now });
}
