/**
 * Bounds on wrong passwords and codes. A try is counted in one conditional statement before the password is looked at and given back if
 * it was right, so that tries at the same moment cannot pass a bound together. An address that has no account is counted alike, so that
 * nothing tells it from one that has. A pair of account and browser, or account and network address, that has signed in before has
 * counters of its own: nobody else's wrong tries touch it.
 */
import { createHash, randomUUID, timingSafeEqual } from 'node:crypto';
import { setTimeout as pause } from 'node:timers/promises';
import { DAY, HOUR, MINUTE } from '@zest-bell/core/time';
import type { Request, Response } from 'express';
import type { Orm } from '../platform/database/orm.ts';
import { type Statements, execute, inPlainTransaction } from '../platform/database/statements.ts';
import { inTransaction } from '../platform/database/transaction.ts';
import { wallClock } from '../platform/process/clock.ts';
import { AppError } from '../platform/errors/errors.ts';
import { KnownPairRow, knownPairHolds, signInTryHolds } from './entity.ts';
import { removeRows, upsertRow } from '../platform/database/writing.ts';
import { setAfterSession } from './sessions.ts';
import type { Seal } from '../platform/process/seal.ts';

const QUARTER = 15 * MINUTE;
/** How many tries one counter takes within its window, in ms. */
interface TryLimit {
  readonly most: number;
  readonly within: number;
}
export const BOUNDS = {
  pair: { most: 10, within: QUARTER },
  account: { most: 100, within: HOUR },
  address: { most: 100, within: QUARTER },
  factor: { most: 10, within: QUARTER },
  factorOfDay: { most: 50, within: DAY },
  /** Mails that tell an owner of refusals. */
  told: { most: 1, within: DAY },
} as const satisfies Record<string, TryLimit>;
type Counter = keyof typeof BOUNDS;

/** How long a pair that has signed in stays known. */
export const KNOWN_FOR = 90 * DAY;
/** Above an address's bound: one answer a second, to so many at a time. */
const SLOWED_EVERY = 1000;
const MOST_SLOWED = 20;
const SLOWED_RETRY = 30;

export interface Guess {
  /** As it was typed, in lower case. */
  readonly email: string;
  /** Of the network. */
  readonly address: string;
  /** The browser that has signed in to this account before; null for any other. */
  readonly browser: string | null;
}

/** Neither an account's address nor a machine's is kept as it is. */
const keyOf = (counter: Counter | 'known', ...of: readonly string[]): string =>
  createHash('sha256')
    .update([counter, ...of].join('\n'))
    .digest('base64url');

/** Counts one try. False where the bound is reached: then it is not counted. */
async function count(statements: Statements, counter: Counter, of: readonly string[], now: number): Promise<boolean> {
  const { most, within } = BOUNDS[counter];
  const over = now - within;
  const counted = await execute(
    statements,
    signInTryHolds,
    `insert into sign_in_try (key, wrong, since, ends_at) values (?, 1, ?, ?)
     on conflict (key) do update set
       wrong = case when sign_in_try.since <= ? then 1 else sign_in_try.wrong + 1 end,
       ends_at = case when sign_in_try.since <= ? then excluded.ends_at else sign_in_try.ends_at end,
       since = case when sign_in_try.since <= ? then excluded.since else sign_in_try.since end
     where sign_in_try.since <= ? or sign_in_try.wrong < ?
     returning key`,
    [keyOf(counter, ...of), now, now + within, over, over, over, over, most],
  );
  return counted.length > 0;
}

const giveBack = (statements: Statements, counter: Counter, of: readonly string[]) =>
  execute(
    statements,
    signInTryHolds,
    'update sign_in_try set wrong = wrong - 1 where key = ? and wrong > 0 returning key',
    [keyOf(counter, ...of)],
  );

/** A try that was counted as wrong; `right` takes that back. */
export interface WrongTry {
  right(): Promise<void>;
}

/** Who is known has one counter; everybody else has that of their pair, of the account, and of their address. */
const countersOf = (guess: Guess, isKnown: boolean): readonly (readonly [Counter, ...string[]])[] =>
  isKnown
    ? [['pair', guess.email, guess.browser ?? guess.address, 'known']]
    : [
        ['pair', guess.email, guess.address],
        ['account', guess.email],
        ['address', guess.address],
      ];

export class TryCounter {
  private readonly orm: Orm;
  private readonly every: number;
  /** By address: when the next slowed answer is due, and how many wait for theirs. */
  private readonly slowed = new Map<string, { due: number; waiting: number }>();

  constructor(orm: Orm, { every = SLOWED_EVERY } = {}) {
    this.orm = orm;
    this.every = every;
  }

  /**
   * Counts a try of a password. Throws `tooManyAttempts` where the pair or the account is refused. Waits where the address is slowed;
   * throws `tooManyRequests` where too many from it wait already.
   */
  async begin(guess: Guess, now = wallClock()): Promise<WrongTry> {
    const isKnown = guess.browser !== null || (await this.isKnown(guess, now));
    const counters = countersOf(guess, isKnown);
    const state = await inPlainTransaction(this.orm, async (statements) => {
      const taken: (readonly [Counter, ...string[]])[] = [];
      for (const [counter, ...of] of counters) {
        if (await count(statements, counter, of, now)) taken.push([counter, ...of]);
        else if (counter === 'address') return { taken, isSlowed: true };
        else {
          for (const [c, ...o] of taken) await giveBack(statements, c, o);
          return null;
        }
      }
      return { taken, isSlowed: false };
    });
    if (state === null) throw new AppError('tooManyAttempts');
    if (state.isSlowed) await this.slow(guess.address);
    return {
      right: () =>
        inPlainTransaction(this.orm, async (statements) => {
          for (const [counter, ...of] of state.taken) {
            // The pair begins anew: nobody but its owner types the right password.
            if (counter === 'pair')
              await execute(statements, signInTryHolds, 'delete from sign_in_try where key = ? returning key', [
                keyOf(counter, ...of),
              ]);
            else await giveBack(statements, counter, of);
          }
        }),
    };
  }

  /** From now on an account and a network address that signed in together have counters of their own. */
  async know({ email, address }: Pick<Guess, 'email' | 'address'>, now = wallClock()): Promise<void> {
    const row = { key: keyOf('known', email, address), until: now + KNOWN_FOR };
    await inTransaction(this.orm, (tx) => upsertRow(tx, knownPairHolds, row));
  }

  /** Counts a code or recovery code of a second factor. Throws `tooManyAttempts`; passkeys are not counted. */
  async beginFactor(account: number, now = wallClock()): Promise<WrongTry> {
    const of = [String(account)];
    const isCounted = await inPlainTransaction(this.orm, async (statements) => {
      if (!(await count(statements, 'factor', of, now))) return false;
      if (await count(statements, 'factorOfDay', of, now)) return true;
      await giveBack(statements, 'factor', of);
      return false;
    });
    if (!isCounted) throw new AppError('tooManyAttempts');
    return {
      right: () =>
        inPlainTransaction(this.orm, async (statements) => {
          await giveBack(statements, 'factor', of);
          await giveBack(statements, 'factorOfDay', of);
        }),
    };
  }

  /** Whether the owner is still to be told today that what is named was refused. */
  mayTell(account: number, what: 'password' | 'factor', now = wallClock()): Promise<boolean> {
    return inPlainTransaction(this.orm, (statements) => count(statements, 'told', [String(account), what], now));
  }

  private async isKnown({ email, address }: Guess, now: number): Promise<boolean> {
    const known = await this.orm.em.fork().findOne(KnownPairRow, { key: keyOf('known', email, address) });
    return known !== null && known.until > now;
  }

  private async slow(address: string): Promise<void> {
    const now = performance.now();
    const line = this.slowed.get(address) ?? { due: now, waiting: 0 };
    if (line.waiting >= MOST_SLOWED) throw new AppError('tooManyRequests', [], { retryAfter: SLOWED_RETRY });
    this.slowed.set(address, line);
    line.waiting++;
    line.due = Math.max(line.due, now) + this.every;
    try {
      await pause(line.due - now);
    } finally {
      if (--line.waiting === 0) this.slowed.delete(address);
    }
  }
}

/** Removes expired counters, and pairs that are no longer known. */
export const forgetTries = (orm: Orm, now = wallClock()): Promise<number> =>
  inTransaction(orm, async (tx) => {
    await removeRows(tx, knownPairHolds, { until: { $lte: now } });
    return removeRows(tx, signInTryHolds, { endsAt: { $lte: now } });
  });

const nameFor = (account: number): string => `zest-bell-known-${account}`;
const signed = (seal: Seal, account: number, browser: string, until: string): string =>
  seal.mark(`known browser\n${account}\n${browser}\n${until}`);

/** The browser's own id, where it holds a cookie of this account that is still good; else null. */
export function knownBrowser(req: Request, seal: Seal, account: number, now = wallClock()): string | null {
  const [, value] = new RegExp(`(?:^|;\\s*)${nameFor(account)}=([\\w.-]+)`).exec(req.headers.cookie ?? '') ?? [];
  const [browser, until, mark] = value?.split('.') ?? [];
  if (browser === undefined || until === undefined || mark === undefined || !(Number(until) > now)) return null;
  const [shown, wanted] = [Buffer.from(mark), Buffer.from(signed(seal, account, browser, until))];
  return shown.length === wanted.length && timingSafeEqual(shown, wanted) ? browser : null;
}

/** After a whole sign-in; the browser keeps the id that it has. */
export function knowBrowser(req: Request, res: Response, seal: Seal, account: number, now = wallClock()): void {
  const browser = knownBrowser(req, seal, account, now) ?? randomUUID();
  const until = String(now + KNOWN_FOR);
  const value = `${browser}.${until}.${signed(seal, account, browser, until)}`;
  const about = `Max-Age=${KNOWN_FOR / 1000}; Path=/api/v1/session; HttpOnly; SameSite=Lax`;
  setAfterSession(res, `${nameFor(account)}=${value}; ${about}${req.secure ? '; Secure' : ''}`);
}
