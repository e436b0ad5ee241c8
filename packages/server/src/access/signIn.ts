/** Signing in: what a session holds for a whole or a half sign-in, and what the screen is told about it. */
import { promisify } from 'node:util';
import { createHmac } from 'node:crypto';
import type { Request, Response } from 'express';
import type { SessionData } from 'express-session';
import type { AccessRole } from '@zest-bell/core/access';
import type { SessionAnswer, SignInWay } from '@zest-bell/core/exchange';
import type { OutgoingClient } from '../platform/http/outgoing.ts';
import type { Seal } from '../platform/process/seal.ts';
import { connectedTerms } from './directory/settings.ts';
import { rateLimit } from 'express-rate-limit';
import { AppError } from '../platform/errors/errors.ts';
import { LAUNCH_COOKIE, SESSION_COOKIE } from '../platform/http/http.ts';
import { wallClock } from '../platform/process/clock.ts';
import { countedIn } from '../platform/http/hits.ts';
import type { Em, Orm, Tx } from '../platform/database/orm.ts';
import type { PlatformServices } from '../platform/services.ts';
import { Account, isOfLaunch, mailOf } from './entity.ts';
import { type CoursePermissions, listOf, mayMakeCourses, partsFor } from './permissions.ts';
import { factorsOf } from './factors.ts';
import { installationOf } from './installation.ts';

/** How long after a password was typed one need not type it again, in ms. */
const FRESH_FOR = 10 * 60_000;
/** How long somebody has to show their second factor, and how often they may be wrong. */
const FACTOR_FOR = 5 * 60_000;
/** How long somebody has to prove an older account. */
const PROVE_FOR = 10 * 60_000;
const MOST_WRONG_CODES = 5;

/** What a launch of a learning platform begins. */
export interface LaunchSession {
  readonly launch: { readonly platform: number; readonly deployment: string };
  readonly account?: number;
  /** The account is another one of their own, to which they joined that of the platform. */
  readonly isJoined?: true;
  readonly student?: { readonly course: number; readonly person: string | null };
}

/** What a session keeps of the directory. */
export interface DirectorySession {
  readonly canSignOut: boolean;
}

/** Somebody as a provider calls them. */
export interface DirectoryIdentity {
  readonly issuer: string;
  readonly subject: string;
}

declare module 'express-session' {
  interface SessionData {
    account: number;
    /** When they last showed who they are. */
    shownAt: number;
    /** Who has shown their password, and not yet their second factor. */
    half: {
      account: number;
      until: number;
      wrong: number;
      challenge: string | null;
      cameBy?: DirectorySession | undefined;
      /** Whom the directory knows by it once the factor was shown. */
      links?: DirectoryIdentity | undefined;
    };
    /** Of somebody whom the directory has signed in. */
    directory: DirectorySession;
    /** Of somebody whom the directory has signed in, and who has yet to prove an older account by its password. */
    proving: {
      account: number;
      until: number;
      identity: DirectoryIdentity;
      cameBy: DirectorySession;
      hasFactor: boolean;
    };
    /** Of an account that has to set up a second factor before anything else. */
    mustSetFactor: boolean;
    /** What is being set up and not confirmed yet. */
    totp: string;
    challenge: string;
    /** Begun by a launch of a learning platform: it reaches only the courses of its deployment. */
    launch: LaunchSession['launch'];
    /** Of a student whom a platform launched: their own page, and nothing else. */
    student: NonNullable<LaunchSession['student']>;
    since: number;
    from: string;
    browser: string;
  }
}

/** A new session id at every sign-in, so that one planted before is worth nothing. */
async function anew(req: Request): Promise<void> {
  await promisify(req.session.regenerate.bind(req.session))();
  // `regenerate` put a new session in the old one's place.
  Object.assign(req.session, {
    since: wallClock(),
    from: req.ip ?? '',
    browser: (req.get('user-agent') ?? '').slice(0, 300),
  });
}

const keep = (req: Request): Promise<void> => promisify(req.session.save.bind(req.session))();

interface Beginning {
  readonly mustSetFactor?: boolean;
  readonly cameBy?: DirectorySession | undefined;
}

export async function begin(
  req: Request,
  account: number,
  { mustSetFactor = false, cameBy }: Beginning = {},
): Promise<void> {
  await anew(req);
  Object.assign(req.session, {
    account,
    shownAt: wallClock(),
    ...(mustSetFactor ? { mustSetFactor } : {}),
    ...(cameBy ? { directory: cameBy } : {}),
  });
  await keep(req);
}

/** A session that is good for proving an older account, and for nothing else. */
export async function beginProving(req: Request, proving: Omit<SessionData['proving'], 'until'>): Promise<void> {
  await anew(req);
  req.session.proving = { ...proving, until: wallClock() + PROVE_FOR };
  await keep(req);
}

/** Which older account somebody who came by the directory has yet to prove; null where none, or no longer. */
export const provingOf = ({ proving }: Partial<SessionData>, now = wallClock()) =>
  proving && proving.until > now ? proving : null;

/**
 * A session for a page within another site's frame. Its cookie says so on the very answer, over http on loopback too, where the
 * library would set none.
 */
export async function beginLaunch(req: Request, res: Response, session: LaunchSession, secret: string): Promise<void> {
  await anew(req);
  const { isJoined, ...begun } = session;
  // The platform has just said who it is: as fresh as a password, but for an account that is not the platform's.
  Object.assign(req.session, { ...begun, shownAt: isJoined ? 0 : wallClock() });
  Object.assign(req.session.cookie, { secure: true, sameSite: 'none', partitioned: true });
  await keep(req);
  // In a window of its own, the person who was signed in there is signed out: two people may share a browser.
  if (req.get('sec-fetch-dest') !== 'iframe')
    res.append('set-cookie', `${SESSION_COOKIE}=; Max-Age=0; Path=/; HttpOnly`);
  if (req.secure) return;
  const signed = createHmac('sha256', secret).update(req.sessionID).digest('base64').replace(/=+$/, '');
  const value = encodeURIComponent(`s:${req.sessionID}.${signed}`);
  res.append('set-cookie', `${LAUNCH_COOKIE}=${value}; Path=/; Secure; HttpOnly; SameSite=None; Partitioned`);
}

/** A session that is good for showing the second factor, and for nothing else. */
async function beginHalf(req: Request, account: number, { cameBy, links }: SignInExtras): Promise<void> {
  await anew(req);
  req.session.half = { account, until: wallClock() + FACTOR_FOR, wrong: 0, challenge: null, cameBy, links };
  await keep(req);
}

/** Who has shown their password and may still show the rest; null where nobody has, or no longer. */
const pendingSignIn = ({ half }: Partial<SessionData>, now = wallClock()) => (half && half.until > now ? half : null);

/** The same; throws `signInNeeded` in place of null. */
export function halfOf(req: Request) {
  const half = pendingSignIn(req.session);
  if (!half) throw new AppError('signInNeeded');
  return half;
}

/** A wrong code: the fifth ends it. */
export async function countWrong(req: Request): Promise<void> {
  const half = halfOf(req);
  half.wrong++;
  if (half.wrong >= MOST_WRONG_CODES) delete req.session.half;
  await keep(req);
}

/** Throws `confirmYourself` where the password was typed too long ago. */
export function mustBeFresh(req: Request, now = wallClock()): void {
  if ((req.session.shownAt ?? 0) <= now - FRESH_FOR) throw new AppError('confirmYourself');
}

export interface CourseTitle {
  readonly id: number;
  readonly code: string;
  readonly title: string;
}

export interface AccountOptions {
  /** In the demo, whom one button signs in. */
  readonly demoEmail: string | null;
  /** What courses are called, by their ids. */
  readonly titlesOf: (em: Em, courses: readonly number[]) => Promise<readonly CourseTitle[]>;
  /** Told, in the same transaction, when somebody's part in a course becomes another, or ends: null. */
  readonly onPart: (tx: Tx<'course'>, course: number, account: number, role: AccessRole | null) => Promise<void>;
  /** Told, in the same transaction, when one account’s part in a course becomes another’s. */
  readonly onJoined: (tx: Tx<'course'>, course: number, from: number, to: number) => Promise<void>;
  /** The address under which people reach the application, where it is known. */
  readonly publicUrl?: string | null;
  readonly attempts?: number;
  /** Between two answers to an address that is slowed, in ms. */
  readonly slowedEvery?: number;
  /** Typed by the person who makes the first account, where the server can be reached from elsewhere. */
  readonly firstCode?: string | null;
}

export type AccountServices = Pick<
  PlatformServices,
  | 'orm'
  | 'reading'
  | 'mail'
  | 'clock'
  | 'logger'
  | 'linkBase'
  | 'seal'
  | 'longWork'
  | 'installationSender'
  | 'refreshInstallationSender'
  | 'fixed'
> & {
  readonly outgoing: OutgoingClient;
  /** Seals secrets that another server gave us. */
  readonly sealOutside: Seal;
};

const cameBy = ({ launch, directory }: Partial<SessionData>): SignInWay =>
  launch ? 'launch' : directory ? 'directory' : 'password';

const sessionAccount = (row: Account, session: Partial<SessionData>) => ({
  id: row.id,
  name: row.name,
  email: mailOf(row) ?? '',
  sendDelay: row.sendDelay,
  isAdministrator: row.isAdministrator,
  tourOver: row.tourOver,
  hasPassword: row.passwordHash !== '',
  cameBy: cameBy(session),
  mayJoin: session.launch !== undefined && isOfLaunch(row),
});

/** Who is signed in, as the screen is told. */
export type SessionReader = (req: Request) => Promise<SessionAnswer>;

/** `what` is limited, over all processes. */
export const limitOf = (orm: Orm, what: string, limit: number) =>
  rateLimit({
    ...countedIn(orm, what),
    windowMs: 15 * 60_000,
    limit,
    skipSuccessfulRequests: true,
    // Who may say where a request comes from is set elsewhere, and what others say of it is worth nothing.
    validate: { xForwardedForHeader: false },
    standardHeaders: 'draft-8',
    legacyHeaders: false,
    handler: (_req, _res, next) => next(new AppError('tooManyAttempts')),
  });

interface SignInExtras {
  readonly cameBy?: DirectorySession | undefined;
  readonly links?: DirectoryIdentity | undefined;
}

/** Signs somebody in who has shown who they are: whole, or half where a second factor is still to be shown. */
export async function signInWith(em: Em, req: Request, row: Account, extras: SignInExtras = {}): Promise<void> {
  const factors = await factorsOf(em, row);
  if (factors.length > 0) return beginHalf(req, row.id, extras);
  const { factorRequired } = await installationOf(em);
  return begin(req, row.id, { mustSetFactor: factorRequired, cameBy: extras.cameBy });
}

export function answering(
  services: AccountServices,
  { demoEmail, titlesOf, firstCode = null }: AccountOptions,
): SessionReader {
  const { reading } = services;
  const firstOf = async (em: Em, isSomebody: boolean) => {
    const needsFirstAccount = !isSomebody && (await em.count(Account)) === 0;
    return { needsFirstAccount, needsFirstCode: needsFirstAccount && firstCode !== null };
  };
  return async ({ session }) => {
    const em = reading.em.fork();
    const row = session.account === undefined ? null : await em.findOne(Account, { id: session.account });
    const parts = row ? await partsFor(em, row.id) : new Map<number, CoursePermissions>();
    const titles = await titlesOf(em, [...parts.keys()]);
    const open = pendingSignIn(session);
    const half = open && (await em.findOne(Account, { id: open.account }));
    const proving = provingOf(session);
    const older = proving && (await em.findOne(Account, { id: proving.account }));
    const directory = await connectedTerms(em, services.fixed);
    return {
      account: row && sessionAccount(row, session),
      courses: titles.map((c) => ({ ...c, role: parts.get(c.id)!.role, may: listOf(parts.get(c.id)!) })),
      ...(half ? { needs: await factorsOf(em, half) } : {}),
      ...(older ? { toProve: older.email } : {}),
      directory: directory && {
        name: directory.name,
        passwordsOff: directory.passwordsOff,
        canSignOut: session.directory?.canSignOut ?? false,
      },
      mustSetFactor: session.mustSetFactor ?? false,
      mayMakeCourses: row !== null && (await mayMakeCourses(em, row)),
      demo: demoEmail !== null,
      ...(await firstOf(em, row !== null)),
    };
  };
}
