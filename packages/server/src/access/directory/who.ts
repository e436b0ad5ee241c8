/** Which account somebody is whom the directory has signed in: one that it knows, one that they join, a new one, or none. */
import { AppError } from '../../platform/errors/errors.ts';
import type { Em, Tx } from '../../platform/database/orm.ts';
import { insertRow, updateRow, updateRows } from '../../platform/database/writing.ts';
import { wallClock } from '../../platform/process/clock.ts';
import { Account, LinkRow, accountHolds, linkHolds } from '../entity.ts';
import { alsoAccount, withNewAccount } from '../holding.ts';
import { acceptFor } from '../invitations.ts';
import { endKeys, isProven, openLink, prove, proveByLink, useLink } from '../links.ts';
import { hashOf } from '../passwords.ts';
import type { DirectoryIdentity } from '../signIn.ts';
import { DirectoryAccountRow, directoryAccountHolds } from './entity.ts';
import { hasClaim, type DirectoryPerson } from './provider.ts';
import type { DirectorySettings } from './settings.ts';

export type DirectoryArrival =
  /** `isInvited`: an invitation that they came with was accepted on the way. */
  | { readonly kind: 'account'; readonly account: number; readonly isInvited?: true }
  /** An account has their address, and they have yet to show that it is theirs. */
  | { readonly kind: 'toProve'; readonly account: number }
  | { readonly kind: 'none' };

/** Whom the directory calls so; null for somebody it has not sent before. */
export async function accountOf(em: Em, { issuer, subject }: DirectoryIdentity): Promise<number | null> {
  return (await em.findOne(DirectoryAccountRow, { issuer, subject }, { disableIdentityMap: true }))?.account ?? null;
}

/** From now on the directory signs this account in. Of two who do it at once the first stays. */
export async function linkIdentity(
  tx: Tx<'account'>,
  account: number,
  { issuer, subject }: DirectoryIdentity,
): Promise<void> {
  if ((await tx.count(DirectoryAccountRow, { issuer, subject })) > 0) return;
  await insertRow(tx, directoryAccountHolds, { account, issuer, subject, at: wallClock() });
}

/** `invitation`: the secret of one that they came with. `from`: where they came from. */
interface ArrivalRequest {
  readonly person: DirectoryPerson;
  readonly settings: DirectorySettings;
  readonly invitation: string | null;
  readonly from: string;
}

/**
 * Finds or makes the account, in a transaction that has the installation to itself, so that nobody's first sign-ins overlap. Throws
 * `linkUnknown` and `linkUsed` of an invitation.
 */
export async function arrive(tx: Tx<'installation'>, asked: ArrivalRequest): Promise<DirectoryArrival> {
  const { person, settings, invitation } = asked;
  const linked = await accountOf(tx, person);
  if (linked !== null) return { kind: 'account', account: linked };
  const isSure = person.email !== null && (person.isVerified || settings.trustsAddresses);
  const known = person.email === null ? null : await tx.findOne(Account, { email: person.email });
  if (known) return joinByAddress(tx, known, person, isSure);
  if (invitation !== null) return byInvitation(tx, asked, invitation, isSure);
  const invited = isSure ? await openInvitationsTo(tx, person.email) : [];
  const { admits } = settings;
  if (invited.length === 0 && (admits === null || !hasClaim(person, admits.claim, admits.value)))
    return { kind: 'none' };
  return madeFor(tx, person, { email: isSure ? person.email : null }, async (mine, row) => {
    if (isSure) await prove(mine, row.id, row.email, 'directory');
    for (const link of invited) {
      await useInvitation(mine, link);
      await acceptFor(mine, row, link, asked.from);
    }
  });
}

async function joinByAddress(
  tx: Tx,
  known: Account,
  person: DirectoryPerson,
  isSure: boolean,
): Promise<DirectoryArrival> {
  const account = known.id;
  // An address may be given to another person later: who has come by it before is not followed by somebody else.
  const isTaken = (await tx.count(DirectoryAccountRow, { account, issuer: person.issuer })) > 0;
  if (!isSure || isTaken) return { kind: 'toProve', account };
  return alsoAccount(tx, account, async (mine, row) => {
    if (!(await isProven(mine, account, row.email))) {
      // Somebody else may have made it with an address that is not theirs.
      await endKeys(mine, row);
      await updateRow(mine, accountHolds, row, { passwordHash: '', name: person.name });
      await prove(mine, account, row.email, 'directory');
    }
    await linkIdentity(mine, account, person);
    return { kind: 'account', account };
  });
}

async function byInvitation(
  tx: Tx,
  { person, from }: ArrivalRequest,
  secret: string,
  isSure: boolean,
): Promise<DirectoryArrival> {
  const { email } = await openLink(tx, 'invitation', secret);
  const known = await tx.findOne(Account, { email });
  if (known) return { kind: 'toProve', account: known.id };
  const link = await useLink(tx, 'invitation', secret);
  const isOwn = isSure && person.email === email;
  // A link that somebody else has seen proves nothing of who opens it.
  const made = await madeFor(tx, person, { email, isUnproven: link.isShown && !isOwn }, async (mine, row) => {
    if (isOwn) await prove(mine, row.id, email, 'directory');
    else if (!link.isShown) await proveByLink(mine, row);
    await acceptFor(mine, row, link, from);
  });
  return { ...made, isInvited: true };
}

const openInvitationsTo = (em: Em, email: string, now = wallClock()): Promise<LinkRow[]> =>
  em.find(LinkRow, { kind: 'invitation', email, usedAt: null, endsAt: { $gt: now } }, { orderBy: { course: 'asc' } });

async function useInvitation(tx: Tx, { id }: LinkRow): Promise<void> {
  const used = await updateRows(tx, linkHolds, { id, usedAt: null }, { usedAt: wallClock() });
  if (used === 0) throw new AppError('linkUsed');
}

/** A new account without a password. `email` is null where no address of theirs is sure. */
function madeFor(
  tx: Tx,
  person: DirectoryPerson,
  { email, isUnproven = false }: { readonly email: string | null; readonly isUnproven?: boolean },
  work: (mine: Tx<'account'>, row: Account) => Promise<void>,
): Promise<{ readonly kind: 'account'; readonly account: number }> {
  const { issuer, subject, name } = person;
  const made = {
    // No password opens it, and it belongs to nobody else.
    email: email ?? `directory:${hashOf(JSON.stringify({ issuer, subject }))}`,
    reachedAt: email === null ? person.email : null,
    name,
    passwordHash: '',
    createdAt: wallClock(),
    isUnproven,
  };
  return withNewAccount(tx, made, async (mine, row) => {
    await linkIdentity(mine, row.id, person);
    await work(mine, row);
    return { kind: 'account' as const, account: row.id };
  });
}
