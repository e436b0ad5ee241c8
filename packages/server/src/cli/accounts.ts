/** Accounts and the secret on the command line: rescue at the machine when nobody can sign in. */
import { namedActor } from '@zest-bell/core/access';
import { isAddress } from '@zest-bell/core/course';
import { noteAct } from '../access/acts.ts';
import { Account, LinkRow, SessionRow } from '../access/entity.ts';
import { removeFactors } from '../access/factors.ts';
import { linkOf, makeLink } from '../access/links.ts';
import { prove } from '../access/proven.ts';
import { COMMAND_LINE_ACTS, type CommandLineAct } from '../access/signInLog.ts';
import type { Orm, Tx } from '../platform/database/orm.ts';
import { inTransaction } from '../platform/database/transaction.ts';
import { wallClock } from '../platform/process/clock.ts';
import { replaceSecret } from '../secret.ts';

const BY = namedActor('the command line');

const note = (tx: Tx, act: CommandLineAct, about: Readonly<Record<string, string>> = {}) =>
  noteAct(tx, { course: null, by: BY, act: COMMAND_LINE_ACTS[act], about, from: 'this machine' });

/** Throws a sentence where no account has the address. */
async function accountAt(tx: Tx, email: string): Promise<Account> {
  const row = await tx.findOne(Account, { email: email.toLowerCase() });
  if (!row) throw new Error(`No account has the address ${email}`);
  return row;
}

export async function listAccounts(orm: Orm): Promise<string> {
  const rows = await orm.em.fork().find(Account, {}, { orderBy: { id: 'asc' } });
  return rows
    .map((a) =>
      [
        a.id,
        a.email.startsWith('launch:') ? (a.reachedAt ?? '–') : a.email,
        a.name,
        a.isAdministrator ? 'administrator' : '',
      ]
        .join('\t')
        .trimEnd(),
    )
    .join('\n');
}

/** A link that sets a password: it works once, within an hour. The one before works no more. */
async function passwordLink(tx: Tx, email: string, base: string): Promise<string> {
  await tx.nativeUpdate(LinkRow, { kind: 'password', email, usedAt: null }, { usedAt: wallClock() });
  const { secret } = await makeLink(tx, 'password', { email });
  return linkOf(base, 'password', secret);
}

const SAID = (link: string): string => `Open this link within an hour to set the password. It works once.\n${link}`;

/** Makes an account, or an administrator of one that is there. Throws a sentence. */
export const addAccount = (orm: Orm, typed: string, isAdministrator: boolean, base: string): Promise<string> =>
  inTransaction(orm, async (tx) => {
    const email = typed.toLowerCase();
    if (!isAddress(email)) throw new Error(`${typed} is no email address`);
    const known = await tx.findOne(Account, { email });
    if (known && !isAdministrator) throw new Error(`${email} has an account already`);
    const row =
      known ?? tx.create(Account, { email, name: email.split('@')[0]!, passwordHash: '', createdAt: wallClock() });
    if (isAdministrator) row.isAdministrator = true;
    await tx.flush();
    // Who runs this holds the server and its mail.
    await prove(tx, row.id, email, 'machine');
    note(tx, 'added', { account: String(row.id) });
    const link = known ? null : await passwordLink(tx, email, base);
    await tx.flush();
    return link === null ? `${email} is an administrator now.` : SAID(link);
  });

/** Nobody is signed in to the account any more until the password was set. Throws a sentence. */
export const resetPassword = (orm: Orm, email: string, base: string): Promise<string> =>
  inTransaction(orm, async (tx) => {
    const row = await accountAt(tx, email);
    await tx.nativeDelete(SessionRow, { account: row.id });
    note(tx, 'passwordReset', { account: String(row.id) });
    const link = await passwordLink(tx, row.email, base);
    await tx.flush();
    return SAID(link);
  });

export const resetFactor = (orm: Orm, email: string): Promise<string> =>
  inTransaction(orm, async (tx) => {
    const row = await accountAt(tx, email);
    await removeFactors(tx, row.id);
    note(tx, 'factorReset', { account: String(row.id) });
    await tx.flush();
    return `${row.email} signs in with the password alone until a second factor is set up again.`;
  });

export const LOST_WITH_SECRET = [
  'With another secret these no longer open:',
  '- second factors by codes: their owners set them up anew (“zest account reset-factor EMAIL” lets them in)',
  '- secrets of clients and services under Connections: they are typed again',
  '- links for pausing in mail that was sent, and addresses for replies to it',
  '- everybody who is signed in signs in again',
].join('\n');

export async function takeSecret(orm: Orm, secret: string): Promise<string> {
  const { before, now } = await replaceSecret(orm, secret);
  await inTransaction(orm, async (tx) => {
    note(tx, 'secretReplaced');
    await tx.flush();
  });
  return `The database is used with the secret of fingerprint ${now} from now on (before: ${before ?? 'none'}).`;
}
