/** Signing in and out, and the first account of a new installation. */
import { promisify } from 'node:util';
import { Router, type Request, type RequestHandler } from 'express';
import { rateLimit } from 'express-rate-limit';
import { z } from 'zod';
import type { SessionAnswer } from '@zest-bell/core';
import { AppError } from '../platform/errors.ts';
import { parseInput } from '../platform/http.ts';
import type { Em, Orm } from '../platform/orm.ts';
import { Access, Account, SessionRow } from './entity.ts';
import { hashPassword, passwordFits } from './passwords.ts';
import { inTransaction } from '../platform/transaction.ts';

const signInSchema = z.strictObject({
  email: z.string().trim().toLowerCase().min(1, 'Type your email address').max(254),
  password: z.string().min(1, 'Type your password').max(500),
});

const newPassword = z.string().min(10, 'A password has at least 10 characters').max(500);
const passwordSchema = z.strictObject({
  old: z.string().min(1, 'Type your current password').max(500),
  password: newPassword,
});

const firstAccountSchema = z.strictObject({
  name: z.string().trim().min(1, 'Type your name').max(120),
  email: z.email('Type an email address such as ada@college.example').toLowerCase(),
  password: newPassword,
});

/** The account of the signed-in person; throws `signInNeeded` when there is none. */
export function accountOf(req: Request): number {
  const account = req.session.account;
  if (account === undefined) throw new AppError('signInNeeded');
  return account;
}

/** The name under which an account is known to others. */
export const accountName = async (em: Em, id: number): Promise<string> =>
  (await em.findOneOrFail(Account, { id }, { disableIdentityMap: true })).name;

/** Lets in whoever is signed in with an account that is still there. */
export const signedIn =
  (orm: Orm): RequestHandler =>
  async (req, _res, next) => {
    if ((await orm.em.fork().count(Account, { id: accountOf(req) })) === 0) throw new AppError('signInNeeded');
    next();
  };

/** The course that a request names, if it is one of the person's own; else it does not exist for them. */
export async function courseOf(orm: Orm, req: Request): Promise<number> {
  const id = idOf(String(req.params['course']));
  const access = await orm.em.fork().findOne(Access, { account: accountOf(req), course: id });
  if (!access) throw new AppError('notFound');
  return id;
}

/** An id of a path, as it is written: digits and nothing else. Throws `notFound`. */
export function idOf(text: string): number {
  if (!/^[1-9]\d{0,14}$/.test(text)) throw new AppError('notFound');
  return Number(text);
}

/** A new session id at every sign-in, so that one planted before is worth nothing. */
async function begin(req: Request, account: number): Promise<void> {
  const { session } = req;
  await promisify(session.regenerate.bind(session))();
  // `regenerate` put a new session in the old one's place.
  req.session.account = account;
  await promisify(req.session.save.bind(req.session))();
}

/** Wrong passwords in a row after which an account is locked for a while, in ms. */
const MOST_WRONG = 10;
const LOCKED_FOR = 15 * 60_000;

async function countAttempt(orm: Orm, account: Account, fits: boolean): Promise<void> {
  if (fits && account.wrongPasswords === 0) return;
  await inTransaction(orm, async (em) => {
    const row = await em.findOneOrFail(Account, { id: account.id });
    row.wrongPasswords = fits ? 0 : row.wrongPasswords + 1;
    const locked = row.wrongPasswords >= MOST_WRONG;
    if (locked) row.wrongPasswords = 0;
    row.lockedUntil = locked ? Date.now() + LOCKED_FOR : null;
    await em.flush();
  });
}

export function accountRoutes(orm: Orm, demoEmail: string | null, attempts = 10): Router {
  const router = Router();
  const limit = rateLimit({
    windowMs: 15 * 60_000,
    limit: attempts,
    skipSuccessfulRequests: true,
    standardHeaders: 'draft-7',
    legacyHeaders: false,
    handler: (_req, _res, next) => next(new AppError('tooManyAttempts')),
  });

  const answer = async (account: number | undefined): Promise<SessionAnswer> => {
    const em = orm.em.fork();
    const row = account === undefined ? null : await em.findOne(Account, { id: account });
    return {
      account: row && { name: row.name, email: row.email, sendDelay: row.sendDelay },
      demo: demoEmail !== null,
      needsFirstAccount: row === null && (await em.count(Account)) === 0,
    };
  };

  router.get('/session', async (req, res) => {
    res.json(await answer(req.session.account));
  });

  router.post('/session', limit, async (req, res) => {
    const input = parseInput(signInSchema, req.body);
    const row = await orm.em.fork().findOne(Account, { email: input.email });
    // By account as well as by address: whoever comes from many addresses gets no more tries.
    if (row?.lockedUntil != null && row.lockedUntil > Date.now()) throw new AppError('tooManyAttempts');
    const fits = await passwordFits(row?.passwordHash ?? null, input.password);
    if (row) await countAttempt(orm, row, fits);
    if (!fits || !row) throw new AppError('wrongPassword');
    await begin(req, row.id);
    res.json(await answer(row.id));
  });

  router.post('/session/demo', async (req, res) => {
    const row = demoEmail === null ? null : await orm.em.fork().findOne(Account, { email: demoEmail });
    if (!row) throw new AppError('notInDemo');
    await begin(req, row.id);
    res.json(await answer(row.id));
  });

  /** A new password, by whoever knows the old one; every other browser is signed out. */
  router.post('/session/password', limit, async (req, res) => {
    const input = parseInput(passwordSchema, req.body);
    const account = accountOf(req);
    const row = await orm.em.fork().findOneOrFail(Account, { id: account });
    if (!(await passwordFits(row.passwordHash, input.old))) throw new AppError('wrongPassword');
    const passwordHash = await hashPassword(input.password);
    await inTransaction(orm, async (em) => {
      await em.nativeUpdate(Account, { id: account }, { passwordHash });
      await em.nativeDelete(SessionRow, { account });
    });
    await begin(req, account);
    res.json(await answer(account));
  });

  /** Signs out every browser of the account, this one included. */
  router.delete('/session/all', async (req, res) => {
    const account = accountOf(req);
    await inTransaction(orm, (em) => em.nativeDelete(SessionRow, { account }));
    res.clearCookie('zest-bell').status(204).end();
  });

  router.delete('/session', (req, res, next) => {
    req.session.destroy((error: unknown) => {
      if (error) return next(error);
      res.clearCookie('zest-bell').status(204).end();
    });
  });

  router.post('/accounts/first', limit, async (req, res) => {
    const input = parseInput(firstAccountSchema, req.body);
    const passwordHash = await hashPassword(input.password);
    const account = await inTransaction(orm, async (em) => {
      const row = em.create(Account, { name: input.name, email: input.email, passwordHash, createdAt: Date.now() });
      // Written first and counted after: of two who try at once only one can be alone.
      await em.flush();
      if ((await em.count(Account)) > 1) throw new AppError('accountsExist');
      return row.id;
    });
    await begin(req, account);
    res.status(201).json(await answer(account));
  });

  return router;
}
