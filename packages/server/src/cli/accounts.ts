/** Accounts and the secret on the command line: rescue at the machine when nobody can sign in. */
import { namedActor } from '@zest-bell/core/access';
import { isAddress } from '@zest-bell/core/course';
import { noteAct } from '../access/audit.ts';
import { Account, mailOf, linkHolds, accountHolds, sessionHolds } from '../access/entity.ts';
import { removeFactors } from '../access/factors.ts';
import { linkOf, makeLink, prove } from '../access/links.ts';
import { COMMAND_LINE_ACTS, type CommandLineAct } from '../access/signInLog.ts';
import type { Orm, Tx } from '../platform/database/orm.ts';
import { inTransaction } from '../platform/database/transaction.ts';
import { wallClock } from '../platform/process/clock.ts';
import { replaceSecret } from '../wiring/secret.ts';
import { removeRows, updateRows, updateRow } from '../platform/database/writing.ts';
import { alsoAccount, withNewAccount, inAccount } from '../access/holding.ts';

const BY = namedActor('the command line');

const note = (tx: Tx, act: CommandLineAct, about: Readonly<Record<string, string>> = {}) =>
  noteAct(tx, { course: null, by: BY, act: COMMAND_LINE_ACTS[act], about, from: 'this machine' });

/** Throws a sentence where no account has the address. */
async function atAccount<T>(
  orm: Orm,
  email: string,
  work: (tx: Tx<'account'>, account: Account) => Promise<T>,
): Promise<T> {
  const row = await orm.em.fork().findOne(Account, { email: email.toLowerCase() });
  if (!row) throw new Error(`No account has the address ${email}`);
  return inAccount(orm, row.id, work);
}

export async function listAccounts(orm: Orm): Promise<string> {
  const rows = await orm.em.fork().find(Account, {}, { orderBy: { id: 'asc' } });
  return rows
    .map((a) => [a.id, mailOf(a) ?? '–', a.name, a.isAdministrator ? 'administrator' : ''].join('\t').trimEnd())
    .join('\n');
}

/** A link that sets a password: it works once, within an hour. The one before works no more. */
async function passwordLink(tx: Tx, email: string, base: string): Promise<string> {
  await updateRows(tx, linkHolds, { kind: 'password', email, usedAt: null }, { usedAt: wallClock() });
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
    const settle = async (of: Tx<'account'>, row: Account) => {
      if (isAdministrator) await updateRow(of, accountHolds, row, { isAdministrator });
      // Who runs this holds the server and its mail.
      await prove(of, row.id, email, 'machine');
      await note(of, 'added', { account: String(row.id) });
      const link = known ? null : await passwordLink(of, email, base);
      return link === null ? `${email} is an administrator now.` : SAID(link);
    };
    if (known) return alsoAccount(tx, known.id, settle);
    const made = { email, name: email.split('@')[0]!, passwordHash: '', createdAt: wallClock() };
    return withNewAccount(tx, made, settle);
  });

/** Nobody is signed in to the account any more until the password was set. Throws a sentence. */
export const resetPassword = (orm: Orm, email: string, base: string): Promise<string> =>
  atAccount(orm, email, async (tx, row) => {
    await removeRows(tx, sessionHolds, { account: row.id });
    await note(tx, 'passwordReset', { account: String(row.id) });
    const link = await passwordLink(tx, row.email, base);
    return SAID(link);
  });

export const resetFactor = (orm: Orm, email: string): Promise<string> =>
  atAccount(orm, email, async (tx, row) => {
    await removeFactors(tx, row.id);
    await note(tx, 'factorReset', { account: String(row.id) });
    return `${row.email} signs in with the password alone until a second factor is set up again.`;
  });

export const LOST_WITH_SECRET = [
  'With another secret these no longer open:',
  '- second factors by codes: their owners set them up anew (“zest account reset-factor EMAIL” lets them in)',
  '- secrets of clients and services under Connections, and of the institution’s sign-in: they are typed again',
  '- links for pausing in mail that was sent, and addresses for replies to it',
  '- everybody who is signed in signs in again',
].join('\n');

export async function acceptSecret(orm: Orm, secret: string): Promise<string> {
  const { before, now } = await replaceSecret(orm, secret);
  await inTransaction(orm, (tx) => note(tx, 'secretReplaced'));
  return `The database is used with the secret of fingerprint ${now} from now on (before: ${before ?? 'none'}).`;
}
