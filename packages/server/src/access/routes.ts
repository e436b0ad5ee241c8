/** Signing in and out, and the first account of a new installation. */
import type { Door } from './door.ts';
import { contract } from '@zest-bell/core/contract';
import { promisify } from 'node:util';
import { type Request } from 'express';
import { rateLimit } from 'express-rate-limit';
import type { SessionAnswer } from '@zest-bell/core/exchange';
import { AppError } from '../platform/http/errors.ts';
import { SESSION_COOKIE } from '../platform/http/http.ts';
import type { Em, Orm } from '../platform/database/orm.ts';
import { Account, SessionRow } from './entity.ts';
import { listOf, partsFor, type Part } from './mine.ts';
import { hashPassword, passwordFits } from './passwords.ts';
import { countTry, mayTry } from './tries.ts';
import { inTransaction } from '../platform/database/transaction.ts';

/** A new session id at every sign-in, so that one planted before is worth nothing. */
async function begin(req: Request, account: number): Promise<void> {
  const { session } = req;
  await promisify(session.regenerate.bind(session))();
  // `regenerate` put a new session in the old one's place.
  req.session.account = account;
  await promisify(req.session.save.bind(req.session))();
}

/** Wrong passwords of one address, whomever they name: a campus behind one address has many people. */
const MOST_OF_ADDRESS = 100;

const guessOf = (req: Request, email: string) => ({ email, address: req.ip ?? '' });

export interface AccountOptions {
  /** In the demo, whom one button signs in. */
  readonly demoEmail: string | null;
  /** What courses are called, by their ids. */
  readonly titlesOf: (em: Em, courses: readonly number[]) => Promise<readonly CourseTitle[]>;
  readonly attempts?: number;
}
export interface CourseTitle {
  readonly id: number;
  readonly code: string;
  readonly title: string;
}

const sessionAccount = ({ id, name, email, sendDelay, isAdministrator }: Account) => ({
  ...{ id, name, email, sendDelay, isAdministrator },
});

export function accountRoutes(door: Door, orm: Orm, options: AccountOptions): void {
  const { demoEmail, titlesOf, attempts = MOST_OF_ADDRESS } = options;
  const limit = rateLimit({
    windowMs: 15 * 60_000,
    limit: attempts,
    skipSuccessfulRequests: true,
    // Who may say where a request comes from is set elsewhere, and what others say of it is worth nothing.
    validate: { xForwardedForHeader: false },
    standardHeaders: 'draft-7',
    legacyHeaders: false,
    handler: (_req, _res, next) => next(new AppError('tooManyAttempts')),
  });

  const answer = async (account: number | undefined): Promise<SessionAnswer> => {
    const em = orm.em.fork();
    const row = account === undefined ? null : await em.findOne(Account, { id: account });
    const parts = row ? await partsFor(em, row.id) : new Map<number, Part>();
    const titles = await titlesOf(em, [...parts.keys()]);
    return {
      account: row && sessionAccount(row),
      courses: titles.map((c) => ({ ...c, role: parts.get(c.id)!.role, may: listOf(parts.get(c.id)!) })),
      demo: demoEmail !== null,
      needsFirstAccount: row === null && (await em.count(Account)) === 0,
    };
  };

  door.on(contract.access.session, ({ req }) => answer(req.session.account));

  door.on(
    contract.access.signIn,
    async ({ body: input, req }) => {
      const guess = guessOf(req, input.email);
      await mayTry(orm, guess);
      const row = await orm.em.fork().findOne(Account, { email: input.email });
      const fits = await passwordFits(row?.passwordHash ?? null, input.password);
      await countTry(orm, guess, fits && row !== null);
      if (!fits || !row) throw new AppError('wrongPassword');
      await begin(req, row.id);
      return answer(row.id);
    },
    { guards: [limit] },
  );

  door.on(contract.access.signInToDemo, async ({ req }) => {
    const row = demoEmail === null ? null : await orm.em.fork().findOne(Account, { email: demoEmail });
    if (!row) throw new AppError('notInDemo');
    await begin(req, row.id);
    return answer(row.id);
  });

  /** A new password, by whoever knows the old one; every other browser is signed out. */
  door.on(
    contract.access.password,
    async ({ body: input, account, req }) => {
      const row = await orm.em.fork().findOneOrFail(Account, { id: account });
      const guess = guessOf(req, row.email);
      await mayTry(orm, guess);
      const fits = await passwordFits(row.passwordHash, input.old);
      await countTry(orm, guess, fits);
      if (!fits) throw new AppError('wrongPassword');
      const passwordHash = await hashPassword(input.password);
      await inTransaction(orm, async (em) => {
        await em.nativeUpdate(Account, { id: account }, { passwordHash });
        await em.nativeDelete(SessionRow, { account });
      });
      await begin(req, account);
      return answer(account);
    },
    { guards: [limit] },
  );

  /** Signs out every browser of the account, this one included. */
  door.on(contract.access.signOutEverywhere, async ({ account, res }) => {
    await inTransaction(orm, (em) => em.nativeDelete(SessionRow, { account }));
    res.clearCookie(SESSION_COOKIE);
    return undefined;
  });

  door.on(contract.access.signOut, async ({ req, res }) => {
    await promisify(req.session.destroy.bind(req.session))();
    res.clearCookie(SESSION_COOKIE);
    return undefined;
  });

  door.on(
    contract.access.firstAccount,
    async ({ body: input, req }) => {
      const passwordHash = await hashPassword(input.password);
      const account = await inTransaction(orm, async (em) => {
        const row = em.create(Account, {
          ...{ name: input.name, email: input.email, passwordHash, createdAt: Date.now() },
          isAdministrator: true,
        });
        // Written first and counted after: of two who try at once only one can be alone.
        await em.flush();
        if ((await em.count(Account)) > 1) throw new AppError('accountsExist');
        return row.id;
      });
      await begin(req, account);
      return answer(account);
    },
    { guards: [limit] },
  );
}
