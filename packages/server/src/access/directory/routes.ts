/** Signing in at the institution's provider: where it begins, where its answer comes to, and the administrator's settings. */
import { contract } from '@zest-bell/core/contract';
import { escapeHtml } from '@zest-bell/core/wording';
import { Router, type Request, type RequestHandler, type Response } from 'express';
import { AppError } from '../../platform/errors/errors.ts';
import { ownOrigin } from '../../platform/http/http.ts';
import { plainPage } from '../../platform/http/plainPage.ts';
import { inTransaction } from '../../platform/database/transaction.ts';
import { wallClock } from '../../platform/process/clock.ts';
import type { Door } from '../door.ts';
import { Account } from '../entity.ts';
import { factorsOf, redeemCode, redeemRecoveryCode } from '../factors.ts';
import { inAccount, inInstallation } from '../holding.ts';
import { idOf } from '../pathIds.ts';
import {
  begin,
  beginProving,
  limitOf,
  mustBeFresh,
  provingOf,
  signInWith,
  type AccountOptions,
  type AccountServices,
  type SessionReader,
} from '../signIn.ts';
import { SignInLog } from '../signInLog.ts';
import { TryCounter } from '../tries.ts';
import { joinAccounts, separateAccounts } from './join.ts';
import { DirectoryRefused, namesFactor, Provider, type DirectoryPerson } from './provider.ts';
import { directorySettings, directoryTerms, keepDirectory, type DirectorySettings } from './settings.ts';
import { keepState, takeState, type CookieOptions, type SignInState } from './state.ts';
import { accountOf, arrive, linkIdentity } from './who.ts';

const MOST_OF_ADDRESS = 100;

type DirectoryOptions = Pick<AccountOptions, 'onPart' | 'onJoined' | 'publicUrl'>;

/** Shared by the routes of the contract and the pages that the provider leads to. */
interface DirectoryParts {
  readonly provider: Provider;
  readonly settings: () => Promise<DirectorySettings | null>;
  readonly callbackOf: (req: Request) => string;
  /** How the cookie of a sign-in is sealed and sent. */
  readonly cookie: CookieOptions;
}

function directoryParts(services: AccountServices, { publicUrl = null }: DirectoryOptions): DirectoryParts {
  const baseOf = (req: Request): string => {
    const base = services.linkBase() ?? ownOrigin(req, publicUrl);
    if (base === null) throw new AppError('noPublicAddress');
    return base;
  };
  return {
    provider: new Provider(services.outgoing),
    settings: () => directorySettings(services.reading.em.fork(), services),
    callbackOf: (req) => `${baseOf(req)}/oidc/callback`,
    cookie: { seal: services.sealOutside, secure: publicUrl?.startsWith('https:') ?? false },
  };
}

interface DirectorySignIn {
  readonly answer: SessionReader;
  readonly tries: TryCounter;
  /** Throws `wrongPassword` and what refuses too many tries. */
  readonly showPassword: (req: Request, email: string, password: string) => Promise<Account>;
}

export function directoryRoutes(
  door: Door,
  services: AccountServices,
  { answer, tries, showPassword, ...options }: DirectorySignIn & DirectoryOptions,
): void {
  const { orm, reading, seal, sealOutside } = services;
  const { provider, settings, callbackOf, cookie } = directoryParts(services, options);

  door.on(
    contract.access.beginDirectory,
    async ({ body: { purpose, then, invitation = null }, req, res }) => {
      const found = await settings();
      if (!found) throw new AppError('noDirectory');
      if (purpose === 'join') mustBeLaunched(req);
      const asksAgain = purpose === 'confirm';
      const { to, begun } = await provider.begin(found, callbackOf(req), { asksAgain }).catch(unreachable);
      keepState(res, cookie, { ...begun, issuer: found.issuer, purpose, then, invitation });
      return { to };
    },
    { guards: [limitOf(orm, 'directory', MOST_OF_ADDRESS)] },
  );

  door.on(contract.access.proveOlder, async ({ body: { password }, req }) => {
    const proving = provingOf(req.session);
    if (!proving) throw new AppError('signInNeeded');
    const { account, identity, cameBy, hasFactor } = proving;
    const { email } = await orm.em.fork().findOneOrFail(Account, { id: account });
    const row = await showPassword(req, email, password);
    if (row.id !== account) throw new AppError('wrongPassword');
    const em = orm.em.fork();
    const needsFactor = (await factorsOf(em, row)).length > 0 && !hasFactor;
    // Where a second factor is still to be shown, the directory knows the account only after that.
    if (!needsFactor) await inAccount(orm, account, (tx) => linkIdentity(tx, account, identity));
    if (hasFactor) await begin(req, account, { cameBy });
    else await signInWith(em, req, row, { cameBy, links: identity });
    return answer(req);
  });

  door.on(contract.access.join, async ({ account, body: { email, password, code }, req }) => {
    mustBeLaunched(req);
    const row = await showPassword(req, email, password);
    if ((await factorsOf(orm.em.fork(), row)).length > 0) {
      if (code === '') throw new AppError('codeNeeded');
      const counted = await tries.beginFactor(row.id);
      await inAccount(orm, row.id, (tx, own) =>
        /^\d{6}$/.test(code) ? redeemCode(tx, seal, own, code) : redeemRecoveryCode(tx, own.id, code),
      );
      await counted.right();
    }
    await inTransaction(orm, (tx) => joinAccounts(tx, account, row.id, options));
    await begin(req, row.id);
    return answer(req);
  });

  door.on(contract.admin.separate, async ({ path, req }) => {
    mustBeFresh(req);
    await inTransaction(orm, (tx) => separateAccounts(tx, idOf(path.account), options));
  });

  door.on(contract.admin.directory, async ({ req }) => {
    const em = reading.em.fork();
    const found = await settings();
    return {
      ...(await directoryTerms(em)),
      issuer: found?.issuer ?? '',
      clientId: found?.clientId ?? '',
      hasSecret: found !== null && found.secret !== null,
      isFixed: services.fixed.directory !== null,
      callback: (services.linkBase() ?? ownOrigin(req, options.publicUrl ?? null)) === null ? null : callbackOf(req),
    };
  });

  door.on(contract.admin.setDirectory, async ({ body: { issuer, clientId, secret, ...terms }, req }) => {
    mustBeFresh(req);
    if (services.fixed.directory) {
      await inInstallation(orm, (tx) => keepDirectory(tx, terms));
      return;
    }
    if (issuer === undefined || clientId === undefined) throw new AppError('invalidInput', [missing(issuer)]);
    const why = services.outgoing.whyNot(issuer);
    if (why !== null) throw new AppError('invalidInput', [{ path: 'issuer', code: 'forbidden', message: why }]);
    // A secret belongs to one client of one provider: another provider is not shown it.
    const before = await settings();
    const kept = before?.issuer === issuer && before.clientId === clientId ? before.secret : null;
    await new Provider(services.outgoing)
      .configuration({ ...terms, issuer, clientId, secret: secret ?? kept })
      .catch((error: unknown) => {
        if (!(error instanceof DirectoryRefused)) throw error;
        throw new AppError('invalidInput', [{ path: 'issuer', code: 'noProvider', message: NO_PROVIDER }]);
      });
    const sealed = secret ?? kept;
    const own = { issuer, clientId, secret: sealed === null ? null : sealOutside.close(sealed) };
    await inInstallation(orm, (tx) => keepDirectory(tx, { ...terms, ...own }));
  });

  door.on(contract.admin.removeDirectory, async ({ req }) => {
    mustBeFresh(req);
    if (services.fixed.directory) throw new AppError('notAllowed');
    const none = { issuer: null, clientId: null, secret: null, passwordsOff: false };
    await inInstallation(orm, (tx) => keepDirectory(tx, none));
  });
}

const NO_PROVIDER =
  'No provider answers there. Type the issuer as the provider writes it, such as https://login.uni.example';
const missing = (issuer: string | undefined) =>
  issuer === undefined
    ? { path: 'issuer', code: 'missing', message: 'Type the issuer of the provider' }
    : { path: 'clientId', code: 'missing', message: 'Type the client id' };

function unreachable(error: unknown): never {
  if (!(error instanceof DirectoryRefused)) throw error;
  throw new AppError('directoryUnreachable');
}

/** Throws `launchAgain` but for an account of a launch that has just been launched. */
function mustBeLaunched(req: Request): void {
  try {
    mustBeFresh(req);
  } catch {
    throw new AppError('launchAgain');
  }
  if (!req.session.launch || req.session.account === undefined) throw new AppError('launchAgain');
}

/** Where the provider leads back to, and where somebody signs out there. */
export function directoryPages(
  services: AccountServices,
  options: DirectoryOptions & { readonly sessions: RequestHandler },
): Router {
  const { orm, logger } = services;
  const { provider, settings, callbackOf, cookie } = directoryParts(services, options);
  const signIns = new SignInLog(services, new TryCounter(orm));
  const router = Router();

  const page = (res: Response, status: number, title: string, body: string) =>
    res
      .status(status)
      .set('cache-control', 'no-store')
      .type('html')
      .send(plainPage(title, title, body));
  const answering =
    (work: (req: Request, res: Response) => Promise<void>): RequestHandler =>
    async (req, res) => {
      try {
        await work(req, res);
      } catch (error) {
        if (!(error instanceof DirectoryRefused || (error instanceof AppError && error.status < 500))) throw error;
        const { code } = error;
        logger.info(
          { event: 'directoryRefused', code, address: req.ip ?? '', err: error.cause },
          'a sign-in was refused',
        );
        page(
          res,
          code === 'unreachable' ? 503 : 400,
          'You were not signed in',
          `<p>${escapeHtml(error.message)}</p><p><a class="button main" href="/">To Zest Bell</a></p><p><code>${code}</code></p>`,
        );
      }
    };

  const enter = async (req: Request, person: DirectoryPerson, account: number) => {
    const em = orm.em.fork();
    const row = await em.findOneOrFail(Account, { id: account });
    const cameBy = { canSignOut: person.canSignOut };
    if (namesFactor(person)) await begin(req, account, { cameBy });
    else await signInWith(em, req, row, { cameBy });
    if (req.session.account !== undefined) await signIns.signedIn(account, req.ip ?? '');
  };

  /** Where it leads: whom the directory knows already accepts an invitation themselves. */
  const signIn = async (
    req: Request,
    found: DirectorySettings,
    person: DirectoryPerson,
    kept: SignInState,
  ): Promise<string> => {
    const { invitation } = kept;
    const asked = { person, settings: found, invitation, from: req.ip ?? '' };
    const arrival = await inInstallation(orm, (tx) => arrive(tx, asked));
    if (arrival.kind === 'none') throw new DirectoryRefused('noAccount');
    const then = invitation === null ? kept.then : `/invitation#${invitation}`;
    if (arrival.kind === 'account') {
      await enter(req, person, arrival.account);
      return arrival.isInvited ? kept.then : then;
    }
    const { issuer, subject, canSignOut } = person;
    await beginProving(req, {
      account: arrival.account,
      identity: { issuer, subject },
      cameBy: { canSignOut },
      hasFactor: namesFactor(person),
    });
    return then;
  };

  const joining = async (req: Request, person: DirectoryPerson) => {
    mustBeLaunched(req);
    const { account } = req.session;
    const own = await accountOf(orm.em.fork(), person);
    if (own === null) throw new DirectoryRefused('joinNeedsAccount');
    const row = await orm.em.fork().findOneOrFail(Account, { id: own });
    if ((await factorsOf(orm.em.fork(), row)).length > 0 && !namesFactor(person))
      throw new DirectoryRefused('joinNeedsFactor');
    await inTransaction(orm, (tx) => joinAccounts(tx, account!, own, options));
    await begin(req, own, { cameBy: { canSignOut: person.canSignOut } });
  };

  router.get(
    '/oidc/callback',
    options.sessions,
    answering(async (req, res) => {
      const found = await settings();
      if (!found) throw new DirectoryRefused('notConnected');
      const kept = takeState(req, res, cookie);
      if (!kept) throw new DirectoryRefused('stateUnknown');
      if (kept.issuer !== found.issuer) throw new DirectoryRefused('otherProvider');
      const answered = new URL(callbackOf(req));
      answered.search = new URL(req.originalUrl, answered).search;
      const asksAgain = kept.purpose === 'confirm';
      const person = await provider.finish(found, answered, kept, { asksAgain });
      if (kept.purpose === 'confirm') {
        const known = await accountOf(orm.em.fork(), person);
        if (known === null || known !== req.session.account) throw new DirectoryRefused('otherAccount');
        req.session.shownAt = wallClock();
        page(res, 200, 'Thank you', '<p>Close this window, and go on in the one that you came from.</p>');
        return;
      }
      let { then } = kept;
      if (kept.purpose === 'join') await joining(req, person);
      else then = await signIn(req, found, person, kept);
      res.set('cache-control', 'no-store').redirect(303, then);
    }),
  );

  router.get(
    '/oidc/sign-out',
    answering(async (req, res) => {
      const found = await settings();
      if (!found) throw new DirectoryRefused('notConnected');
      const back = `${new URL(callbackOf(req)).origin}/`;
      const to = await provider.signOutAddress(found, back);
      if (to === null) throw new DirectoryRefused('noSignOut');
      res.set('cache-control', 'no-store').redirect(303, to);
    }),
  );
  return router;
}
