/**
 * Wrong passwords, counted by the account that was named and the address that they come from: whoever guesses is slowed down and then
 * refused, and nobody else is. An account that does not exist is counted alike, so that nothing tells it from one that does.
 */
import { createHash } from 'node:crypto';
import { setTimeout as pause } from 'node:timers/promises';
import { AppError } from '../platform/http/errors.ts';
import type { Orm } from '../platform/database/orm.ts';
import { inTransaction } from '../platform/database/transaction.ts';
import { SignInTryRow } from './entity.ts';
import { wallClock } from '../platform/process/clock.ts';

/** Wrong ones after which the address is refused for the account, and for how long, in ms. */
export const MOST_WRONG = 10;
export const REFUSED_FOR = 15 * 60_000;
/** Wrong ones that cost no time; from there on each costs twice as much as the one before, in ms. */
const FREE = 3;
const FIRST_WAIT = 50;
const LONGEST_WAIT = 2000;

export interface Guess {
  /** As it was typed, in small letters. */
  readonly email: string;
  readonly address: string;
}

/** Neither an address of a person nor of a machine is kept as it is. */
const keyOf = ({ email, address }: Guess): string =>
  createHash('sha256').update(`${email}\n${address}`).digest('base64url');

/** Waits as long as the wrong ones before it make it. Throws `tooManyAttempts` once they are ten within a quarter of an hour. */
export async function mayTry(orm: Orm, guess: Guess, now = wallClock()): Promise<void> {
  const row = await orm.em.fork().findOne(SignInTryRow, { key: keyOf(guess) });
  if (!row || row.since <= now - REFUSED_FOR) return;
  if (row.wrong >= MOST_WRONG) throw new AppError('tooManyAttempts');
  if (row.wrong > FREE) await pause(Math.min(LONGEST_WAIT, FIRST_WAIT * 2 ** (row.wrong - FREE - 1)));
}

/** A right one clears what was counted; the tenth wrong one begins the quarter of an hour anew. */
export async function countTry(orm: Orm, guess: Guess, fits: boolean, now = wallClock()): Promise<void> {
  const key = keyOf(guess);
  if (fits) {
    if ((await orm.em.fork().count(SignInTryRow, { key })) > 0)
      await inTransaction(orm, (tx) => tx.nativeDelete(SignInTryRow, { key }));
    return;
  }
  await inTransaction(orm, async (tx) => {
    const row = await tx.findOne(SignInTryRow, { key });
    if (!row) tx.create(SignInTryRow, { key, wrong: 1, since: now });
    else {
      const isOver = row.since <= now - REFUSED_FOR;
      row.wrong = isOver ? 1 : row.wrong + 1;
      if (isOver || row.wrong === MOST_WRONG) row.since = now;
    }
    await tx.flush();
  });
}

/** Forgets those that count no longer. */
export const forgetTries = (orm: Orm, now = wallClock()): Promise<number> =>
  inTransaction(orm, (tx) => tx.nativeDelete(SignInTryRow, { since: { $lte: now - REFUSED_FOR } }));
