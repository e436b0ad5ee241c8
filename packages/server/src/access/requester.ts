/** Who asks, as a request says it. */
import type { Request } from 'express';
import { AppError } from '../platform/errors/errors.ts';

/** The account of the signed-in person; throws `signInNeeded` if nobody is signed in. */
export function accountOf(req: Request): number {
  const account = req.session.account;
  if (account === undefined) throw new AppError('signInNeeded');
  return account;
}

/** An id of a path, as it is written: digits and nothing else. Throws `notFound`. */
export function idOf(text: string): number {
  if (!/^[1-9]\d{0,14}$/.test(text)) throw new AppError('notFound');
  return Number(text);
}
