/** Signing in and out, a first account, passwords, and where somebody is signed in. */
import { promisify } from 'node:util';
import { contract } from '@zest-bell/core/contract';
import { rateLimit } from 'express-rate-limit';
import type { Request } from 'express';
import { AppError } from '../platform/errors/errors.ts';
import { countedIn } from '../platform/http/hits.ts';
import { SESSION_COOKIE } from '../platform/http/http.ts';
import { inTransaction } from '../platform/database/transaction.ts';
import { sendAccountMail, sendChangeNotice } from './accountMail.ts';
import { mustNotBeCommon, hashPassword, passwordFits, hashOf } from './passwords.ts';
import type { Door } from './door.ts';
import { Account, SessionRow, accountHolds, sessionHolds, linkHolds } from './entity.ts';
import { directoryRoutes } from './directory/routes.ts';
import { passwordsAreOff } from './directory/settings.ts';
import { factorRoutes } from './factorRoutes.ts';
import { linkOf, makeLink, openLink, useLink, prove, proveByLink } from './links.ts';
import { answering, limitOf, signInWith, type AccountOptions, type AccountServices, begin } from './signIn.ts';
import { SignInLog } from './signInLog.ts';
import { knowBrowser, knownBrowser, TryCounter, type WrongTry } from './tries.ts';
import { wallClock } from '../platform/process/clock.ts';
import { removeRows, updateRows, updateRow } from '../platform/database/writing.ts';
import { inAccount, withNewAccount } from './holding.ts';

/** First accounts and links that one address may try within a quarter of an hour. */
const MOST_OF_ADDRESS = 100;
/** Links for a new password that one address may ask for within a quarter of an hour. */
const MOST_FORGOTTEN = 20;

export function accountRoutes(door: Door, services: AccountServices, options: AccountOptions): void {
  const { orm, seal } = services;
  const { demoEmail, attempts = MOST_OF_ADDRESS, firstCode = null } = options;
  const limit = limitOf(services.orm, 'sign in', attempts);
  const tries = new TryCounter(orm, { every: options.slowedEvery });
  const signIns = new SignInLog(services, tries);
  const answer = answering(services, options);
  factorRoutes(door, services, { answer, tries, signIns });
  forgottenRoutes(door, services);
  /** Administrators can always get in, so that a provider that is gone locks nobody out for good. */
  const mustUsePasswords = async ({ isAdministrator }: Account) => {
    if (!isAdministrator && (await passwordsAreOff(orm.em.fork(), services.fixed))) throw new AppError('passwordsOff');
  };

  /** The account of an address with the right password. Throws `wrongPassword`, `tooManyAttempts`, `tooManyRequests`. */
  const showPassword = async (req: Request, email: string, password: string): Promise<Account> => {
    const address = req.ip ?? '';
    const row = await orm.em.fork().findOne(Account, { email });
    const account = row?.id ?? null;
    const browser = row && knownBrowser(req, seal, row.id);
    let counted: WrongTry;
    try {
      counted = await tries.begin({ email, address, browser });
    } catch (error) {
      if (error instanceof AppError && error.status === 429) {
        await signIns.refused(account, address, error.code as 'tooManyAttempts' | 'tooManyRequests');
        if (account !== null && error.code === 'tooManyAttempts') signIns.tellOwner(account, 'password');
      }
      throw error;
    }
    if (!(await passwordFits(row?.passwordHash ?? null, password)) || !row) {
      await signIns.refused(account, address, 'wrongPassword');
      throw new AppError('wrongPassword');
    }
    await counted.right();
    return row;
  };
  directoryRoutes(door, services, { ...options, answer, tries, showPassword });
  const emailOf = async (account: number) => (await orm.em.fork().findOneOrFail(Account, { id: account })).email;

  door.on(contract.access.session, ({ req }) => answer(req));

  door.on(contract.access.signIn, async ({ body: { email, password }, req, res }) => {
    const row = await showPassword(req, email, password);
    await mustUsePasswords(row);
    await signInWith(orm.em.fork(), req, row);
    // Half a sign-in makes nothing known: the second factor is still to be shown.
    if (req.session.account !== undefined) {
      await tries.know({ email, address: req.ip ?? '' });
      knowBrowser(req, res, seal, row.id);
      await signIns.signedIn(row.id, req.ip ?? '');
    }
    return answer(req);
  });

  door.on(contract.access.signInToDemo, async ({ req }) => {
    const row = demoEmail === null ? null : await orm.em.fork().findOne(Account, { email: demoEmail });
    if (!row) throw new AppError('notInDemo');
    await begin(req, row.id);
    return answer(req);
  });

  door.on(contract.access.confirm, async ({ body: { password }, account, req }) => {
    await showPassword(req, await emailOf(account), password);
    req.session.shownAt = wallClock();
  });

  /** A new password, for a person who knows the old one; every other browser is signed out. */
  door.on(contract.access.password, async ({ body: input, account, req }) => {
    const { email } = await showPassword(req, await emailOf(account), input.old);
    mustNotBeCommon(input.password, email);
    const passwordHash = await hashPassword(input.password);
    await inAccount(orm, account, async (em) => {
      await updateRows(em, accountHolds, { id: account }, { passwordHash });
      await removeRows(em, sessionHolds, { account });
    });
    sendChangeNotice(services, account, 'password');
    const { mustSetFactor = false } = req.session;
    await begin(req, account, { mustSetFactor });
    return answer(req);
  });

  door.on(contract.access.endTour, async ({ account }) => {
    await inAccount(orm, account, (em) => updateRows(em, accountHolds, { id: account }, { tourOver: true }));
  });

  /** Signs out every browser of the account, this one included. */
  door.on(contract.access.signOutEverywhere, async ({ account, res }) => {
    await inTransaction(orm, (em) => removeRows(em, sessionHolds, { account }));
    res.clearCookie(SESSION_COOKIE);
    return undefined;
  });

  door.on(contract.access.signOut, async ({ req, res }) => {
    await promisify(req.session.destroy.bind(req.session))();
    res.clearCookie(SESSION_COOKIE);
    return undefined;
  });

  door.on(contract.access.sessions, async ({ account, req }) => {
    const own = { account, expiresAt: { $gt: wallClock() } };
    const rows = await orm.em.fork().find(SessionRow, own, { orderBy: { seenAt: 'desc' }, limit: 100 });
    const here = hashOf(req.sessionID);
    return rows.map(({ id, since, seenAt, from, browser }) => ({
      id,
      since,
      seenAt,
      from,
      browser,
      isThis: id === here,
    }));
  });

  door.on(contract.access.endSession, async ({ account, path }) => {
    const gone = await inTransaction(orm, (em) => removeRows(em, sessionHolds, { account, id: path.session }));
    if (gone === 0) throw new AppError('notFound');
  });

  door.on(contract.access.rename, async ({ account, body: { name }, req }) => {
    await inAccount(orm, account, (em) => updateRows(em, accountHolds, { id: account }, { name }));
    return answer(req);
  });

  door.on(
    contract.access.firstAccount,
    async ({ body: { code, password, ...person }, req }) => {
      if (firstCode !== null && code !== firstCode)
        throw new AppError('invalidInput', [
          { path: 'code', code: 'wrong', message: 'Type the code that the server printed when it was started' },
        ]);
      mustNotBeCommon(password, person.email);
      const passwordHash = await hashPassword(password);
      const account = await inTransaction(orm, async (em) => {
        // Of two who try at once only one can be alone; a second try with the same address must not meet the index first.
        if ((await em.count(Account)) > 0) throw new AppError('accountsExist');
        const first = { ...person, passwordHash, createdAt: wallClock(), isAdministrator: true };
        return withNewAccount(em, first, async (tx, row) => {
          if ((await tx.count(Account)) > 1) throw new AppError('accountsExist');
          // Who can read the server's own output holds the server and its mail.
          await prove(tx, row.id, row.email, 'machine');
          return row.id;
        });
      });
      await services.refreshInstallationSender();
      await begin(req, account);
      return answer(req);
    },
    { guards: [limit] },
  );
}

/** A link for anyone who forgot their password. What is answered says nothing about who has an account. */
function forgottenRoutes(door: Door, services: AccountServices): void {
  const { orm, linkBase, logger } = services;
  // Every one counts, whatever it is answered.
  const limit = rateLimit({
    ...countedIn(orm, 'forgotten'),
    windowMs: 15 * 60_000,
    limit: MOST_FORGOTTEN,
    validate: { xForwardedForHeader: false },
    standardHeaders: 'draft-8',
    legacyHeaders: false,
    handler: (_req, _res, next) => next(new AppError('tooManyAttempts')),
  });

  const send = async (email: string, base: string) => {
    const row = await orm.em.fork().findOne(Account, { email });
    if (!row) return;
    if (!row.isAdministrator && (await passwordsAreOff(orm.em.fork(), services.fixed))) return;
    const { secret } = await inAccount(orm, row.id, async (tx) => {
      // The one before works no more.
      await updateRows(tx, linkHolds, { kind: 'password', email, usedAt: null }, { usedAt: wallClock() });
      return makeLink(tx, 'password', { email });
    });
    await sendAccountMail(services, {
      to: { name: row.name, address: email },
      subject: 'A new password for Zest Bell',
      text: `Somebody asked for a new password for your account at Zest Bell. To set one, open this link within an hour:\n\n${linkOf(base, 'password', secret)}\n\nThe link works once. If you did not ask for it, do nothing: your password stays as it is.`,
    });
  };

  door.on(
    contract.access.forgotten,
    ({ body: { email } }) => {
      const base = linkBase();
      if (base === null) throw new AppError('noPublicAddress');
      // Nobody waits for it, so that nobody can tell by the time it takes whether there is such an account.
      void send(email, base).catch((error: unknown) => logger.error({ err: error }, 'a link could not be sent'));
      return undefined;
    },
    { guards: [limit] },
  );

  door.on(
    contract.access.newPassword,
    async ({ body: { secret, password } }) => {
      const { email } = await openLink(orm.em.fork(), 'password', secret);
      mustNotBeCommon(password, email);
      // Hashed before anything is locked.
      const passwordHash = await hashPassword(password);
      const known = await orm.em.fork().findOne(Account, { email });
      if (!known) throw new AppError('linkUsed');
      const account = known.id;
      await inAccount(orm, account, async (tx, row) => {
        await useLink(tx, 'password', secret);
        await updateRow(tx, accountHolds, row, { passwordHash });
        await proveByLink(tx, row);
        await removeRows(tx, sessionHolds, { account });
      });
      sendChangeNotice(services, account, 'password');
    },
    { guards: [limitOf(orm, 'address', MOST_OF_ADDRESS)] },
  );
}
