/** What is kept of sign-ins: rows of the audit log for administrators, and a line each in the server's log. Never what was typed. */
import { createHash } from 'node:crypto';
import { raw } from '@mikro-orm/core';
import { accountActor, namedActor } from '@zest-bell/core/access';
import { MINUTE } from '@zest-bell/core/time';
import { wallClock } from '../platform/process/clock.ts';
import { inTransaction } from '../platform/database/transaction.ts';
import { sendAccountMail } from './accountMail.ts';
import { keepAct } from './audit.ts';
import { Account, actHolds } from './entity.ts';
import { provenMailOf } from './links.ts';
import type { AccountServices } from './signIn.ts';
import type { TryCounter } from './tries.ts';
import { insertRow, updateRows } from '../platform/database/writing.ts';

const QUARTER = 15 * MINUTE;
const SIGNED_IN = 'signIn.done';
const SIGN_IN_REFUSED = 'signIn.refused';
export type SignInRefusal = 'wrongPassword' | 'wrongCode' | 'tooManyAttempts' | 'tooManyRequests';

export const COMMAND_LINE_ACTS = {
  added: 'commandLine.accountAdded',
  passwordReset: 'commandLine.passwordReset',
  factorReset: 'commandLine.factorReset',
  secretReplaced: 'commandLine.secretReplaced',
} as const;
export type CommandLineAct = keyof typeof COMMAND_LINE_ACTS;

/** As the audit log says what is no request. */
export const SAYS_BESIDE_REQUESTS: Readonly<Record<string, string>> = {
  [COMMAND_LINE_ACTS.added]: 'Make an account or an administrator',
  [COMMAND_LINE_ACTS.passwordReset]: 'Make a link for a new password',
  [COMMAND_LINE_ACTS.factorReset]: 'Take a lost second factor away',
  [COMMAND_LINE_ACTS.secretReplaced]: 'Take a new secret',
  [SIGNED_IN]: 'Sign in',
  [SIGN_IN_REFUSED]: 'Sign in: refused',
};

export class SignInLog {
  private readonly services: AccountServices;
  private readonly tries: TryCounter;

  constructor(services: AccountServices, tries: TryCounter) {
    this.services = services;
    this.tries = tries;
  }

  async signedIn(account: number, address: string): Promise<void> {
    const { orm, logger } = this.services;
    logger.info({ event: 'signIn', account, address, reason: null }, 'signed in');
    await keepAct(orm, { course: null, by: accountActor(account), act: SIGNED_IN, about: {}, from: address });
  }

  /** Repeated refusals within a quarter of an hour share one row with a count. `account` is null if no account has the address. */
  async refused(account: number | null, address: string, reason: SignInRefusal, now = wallClock()): Promise<void> {
    const { orm, logger } = this.services;
    logger.info({ event: 'signInRefused', account, address, reason }, 'sign-in refused');
    const quarter = Math.floor(now / QUARTER);
    const tally = createHash('sha256').update([account, address, reason, quarter].join('\n')).digest('base64url');
    await inTransaction(orm, async (tx) => {
      if ((await updateRows(tx, actHolds, { tally }, { count: raw('count + 1') })) > 0) return;
      await insertRow(tx, actHolds, {
        course: null,
        by: account === null ? namedActor('Somebody without an account') : accountActor(account),
        act: SIGN_IN_REFUSED,
        about: { reason },
        from: address,
        at: now,
        tally,
      });
    });
  }

  /** Tells the owner that their account, or its second factor, is refused: at most once a day, at a proven address. */
  tellOwner(account: number, what: 'password' | 'factor'): void {
    const { orm, logger } = this.services;
    const tell = async () => {
      const row = await orm.em.fork().findOne(Account, { id: account });
      const address = row && (await provenMailOf(orm.em.fork(), row));
      if (!row || address === null || !(await this.tries.mayTell(account, what))) return;
      const text =
        what === 'password'
          ? 'Somebody typed wrong passwords for your account many times. Zest Bell refuses them for a while. You can still sign in from a browser or a network in which you have signed in before.'
          : 'Somebody typed your password and wrong codes for your second factor. Change your password now.';
      await sendAccountMail(this.services, {
        to: { name: row.name, address },
        subject: 'Sign-ins to your Zest Bell account were refused',
        text,
      });
    };
    void tell().catch((error: unknown) =>
      logger.error({ err: error }, 'an owner could not be told of refused sign-ins'),
    );
  }
}
