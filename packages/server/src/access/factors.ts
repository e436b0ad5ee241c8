/** Second factors: codes of an authenticator app (RFC 6238), ten codes for when it is lost, and passkeys (Web Authentication). */
import { randomBytes } from 'node:crypto';
import type { AuthenticationResponseJSON, RegistrationResponseJSON } from '@simplewebauthn/server';
import { Secret, TOTP } from 'otpauth';
import type { Factor } from '@zest-bell/core/exchange';
import { AppError } from '../platform/errors/errors.ts';
import type { Em, Tx } from '../platform/database/orm.ts';
import type { Seal } from '../platform/process/seal.ts';
import { Account, PasskeyRow, accountHolds, recoveryHolds, passkeyHolds } from './entity.ts';
import { hashOf } from './passwords.ts';
import { wallClock } from '../platform/process/clock.ts';
import { insertRow, removeRows, updateRows, insertManyRows, updateRow } from '../platform/database/writing.ts';

const RECOVERY_CODES = 10;
const PERIOD = 30;
/** Periods before and after now of which a code is taken: clocks of telephones differ. */
const WINDOW = 1;
const NAME = 'Zest Bell';

const totpOf = (secret: string, label: string): TOTP =>
  new TOTP({ issuer: NAME, label, algorithm: 'SHA1', digits: 6, period: PERIOD, secret: Secret.fromBase32(secret) });

export const newTotpSecret = (): string => new Secret({ size: 20 }).base32;
/** What an authenticator app reads. */
export const totpUri = (secret: string, label: string): string => totpOf(secret, label).toString();

/** The period of which a code is, in periods since 1970; null for one that does not fit now. */
export function periodOf(secret: string, code: string, now = wallClock()): number | null {
  const delta = totpOf(secret, '').validate({ token: code.replace(/\s/g, ''), timestamp: now, window: WINDOW });
  return delta === null ? null : Math.floor(now / 1000 / PERIOD) + delta;
}

/** Loaded with the first passkey: it is most of what a start would read. */
const webAuthentication = () => import('@simplewebauthn/server');

/** Which factors an account has. */
export async function factorsOf(em: Em, account: Account): Promise<Factor[]> {
  const passkeys = await em.count(PasskeyRow, { account: account.id });
  return [...(account.totp == null ? [] : ['totp' as const]), ...(passkeys > 0 ? ['passkey' as const] : [])];
}

/** Takes a code of the app, which works once. Throws `wrongCode`. */
export async function redeemCode(
  tx: Tx<'account'>,
  seal: Seal,
  account: Account,
  code: string,
  now = wallClock(),
): Promise<void> {
  const period = account.totp == null ? null : periodOf(seal.open(account.totp), code, now);
  if (period === null) throw new AppError('wrongCode');
  const unused = { id: account.id, $or: [{ totpUsed: null }, { totpUsed: { $lt: period } }] };
  if ((await updateRows(tx, accountHolds, unused, { totpUsed: period })) === 0) throw new AppError('wrongCode');
}

const plainCode = (code: string): string => code.toLowerCase().replace(/[^a-z0-9]/g, '');

/** Takes a recovery code, which works once. Throws `wrongCode`. */
export async function redeemRecoveryCode(tx: Tx<'account'>, account: number, code: string): Promise<void> {
  if ((await removeRows(tx, recoveryHolds, { account, hash: hashOf(plainCode(code)) })) === 0)
    throw new AppError('wrongCode');
}

/** Ten new ones in place of those before; they are not kept as they are. */
export async function newRecoveryCodes(tx: Tx<'account'>, account: number): Promise<string[]> {
  // No letters that are taken for one another.
  const letters = 'abcdefghjkmnpqrstuvwxyz23456789';
  const letter = () => letters[randomBytes(1)[0]! % letters.length]!;
  const codes = Array.from({ length: RECOVERY_CODES }, () => Array.from({ length: 16 }, letter).join(''));
  await removeRows(tx, recoveryHolds, { account });
  await insertManyRows(
    tx,
    recoveryHolds,
    codes.map((code) => ({ account, hash: hashOf(code) })),
  );
  return codes.map((code) => code.match(/.{4}/g)!.join('-'));
}

export async function removeFactors(tx: Tx<'account'>, account: number): Promise<void> {
  await updateRows(tx, accountHolds, { id: account }, { totp: null, totpUsed: null });
  await removeRows(tx, recoveryHolds, { account });
  await removeRows(tx, passkeyHolds, { account });
}

/** Where passkeys are made for: the application’s own address. */
export interface Party {
  readonly origin: string;
  readonly id: string;
}
export const partyOf = (base: string): Party => ({ origin: new URL(base).origin, id: new URL(base).hostname });

export async function registrationOf(em: Em, party: Party, account: Account) {
  const mine = await em.find(PasskeyRow, { account: account.id });
  const { generateRegistrationOptions } = await webAuthentication();
  return generateRegistrationOptions({
    rpName: NAME,
    rpID: party.id,
    userName: account.email,
    userDisplayName: account.name,
    userID: new TextEncoder().encode(String(account.id)),
    excludeCredentials: mine.map(({ credential }) => ({ id: credential })),
    authenticatorSelection: { residentKey: 'discouraged', userVerification: 'preferred' },
  });
}

/** Throws `wrongCode` for what is not an answer to the challenge. */
export async function addPasskey(
  tx: Tx<'account'>,
  party: Party,
  { account, name, challenge, said }: { account: number; name: string; challenge: string; said: unknown },
): Promise<void> {
  const { verifyRegistrationResponse } = await webAuthentication();
  const checked = await verifyRegistrationResponse({
    response: said as RegistrationResponseJSON,
    expectedChallenge: challenge,
    expectedOrigin: party.origin,
    expectedRPID: party.id,
    requireUserVerification: false,
  }).catch(() => null);
  if (!checked?.verified) throw new AppError('wrongCode');
  const { credential } = checked.registrationInfo;
  await insertRow(tx, passkeyHolds, {
    account,
    name,
    credential: credential.id,
    counter: credential.counter,
    at: wallClock(),
    publicKey: Buffer.from(credential.publicKey).toString('base64url'),
  });
}

export async function challengeOf(em: Em, party: Party, account: number) {
  const mine = await em.find(PasskeyRow, { account });
  const { generateAuthenticationOptions } = await webAuthentication();
  return generateAuthenticationOptions({
    rpID: party.id,
    allowCredentials: mine.map(({ credential }) => ({ id: credential })),
    userVerification: 'preferred',
  });
}

/** Throws `wrongCode`. */
export async function verifyPasskey(
  tx: Tx<'account'>,
  party: Party,
  account: number,
  challenge: string,
  said: unknown,
) {
  const response = said as AuthenticationResponseJSON;
  const row = await tx.findOne(PasskeyRow, { account, credential: String(response.id) });
  if (!row) throw new AppError('wrongCode');
  const { verifyAuthenticationResponse } = await webAuthentication();
  const checked = await verifyAuthenticationResponse({
    response,
    expectedChallenge: challenge,
    expectedOrigin: party.origin,
    expectedRPID: party.id,
    credential: { id: row.credential, publicKey: Buffer.from(row.publicKey, 'base64url'), counter: row.counter },
    requireUserVerification: false,
  }).catch(() => null);
  if (!checked?.verified) throw new AppError('wrongCode');
  await updateRow(tx, passkeyHolds, row, { counter: checked.authenticationInfo.newCounter, usedAt: wallClock() });
}
