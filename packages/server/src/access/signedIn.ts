/** Who is signed in, as the screen is told, and how somebody comes to be. */
import type { AccessRole } from '@zest-bell/core/access';
import type { SessionAnswer } from '@zest-bell/core/exchange';
import type { Request } from 'express';
import { rateLimit } from 'express-rate-limit';
import { AppError } from '../platform/http/errors.ts';
import { countedIn } from '../platform/http/hits.ts';
import type { Em, Orm, Tx } from '../platform/database/orm.ts';
import type { PlatformServices } from '../platform/services.ts';
import { Account, mailOf } from './entity.ts';
import { mayMakeCourses } from './courseMakers.ts';
import { factorsOf } from './factors.ts';
import { installationOf } from './installation.ts';
import { listOf, partsFor, type CoursePermissions } from './mine.ts';
import { begin, beginHalf, pendingSignIn } from './signing.ts';

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
>;

const sessionAccount = (row: Account) => ({
  id: row.id,
  name: row.name,
  email: mailOf(row) ?? '',
  sendDelay: row.sendDelay,
  isAdministrator: row.isAdministrator,
  tourOver: row.tourOver,
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

/** Signs somebody in who has shown their password: whole, or half where a second factor is still to be shown. */
export async function signInWith(em: Em, req: Request, row: Account): Promise<void> {
  const factors = await factorsOf(em, row);
  if (factors.length > 0) return beginHalf(req, row.id);
  const { factorRequired } = await installationOf(em);
  return begin(req, row.id, { mustSetFactor: factorRequired });
}

export function answering(
  { reading }: AccountServices,
  { demoEmail, titlesOf, firstCode = null }: AccountOptions,
): SessionReader {
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
    return {
      account: row && sessionAccount(row),
      courses: titles.map((c) => ({ ...c, role: parts.get(c.id)!.role, may: listOf(parts.get(c.id)!) })),
      ...(half ? { needs: await factorsOf(em, half) } : {}),
      mustSetFactor: session.mustSetFactor ?? false,
      mayMakeCourses: row !== null && (await mayMakeCourses(em, row)),
      demo: demoEmail !== null,
      ...(await firstOf(em, row !== null)),
    };
  };
}
