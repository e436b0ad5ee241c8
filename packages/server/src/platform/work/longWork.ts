/**
 * Long computations that somebody waits for. They run one at a time, so that rounds, mail and every other request get their
 * turn; one person has a few of them at most; and they end when nobody waits any more. Those that need the server's own
 * state run here and in parts; those that a thread of its own can do stand in a line of their own.
 */
import type { Response } from 'express';
import pLimit from 'p-limit';
import type { WorkInParts } from '@zest-bell/core/time';
import type { Orm } from '../database/orm.ts';
import { isOnServer } from '../database/postgres.ts';
import { AppError } from '../errors/errors.ts';
import { inTurns } from '../turns/inTurns.ts';
import { underLease } from './lease.ts';

/** What one person may have running or waiting. */
const MOST_OF_ONE = 4;

export class LongWork {
  private readonly here = pLimit(1);
  private readonly aside = pLimit(1);
  private readonly byPerson = new Map<number, number>();
  private readonly shared: Orm | null;

  /** With a database that several processes may share, one person has a few of them in all processes together. */
  constructor(orm: Orm | null = null) {
    this.shared = orm !== null && isOnServer(orm.em) ? orm : null;
  }

  /** The result of `work` for the account `person`, unless the request is gone before. Throws `tooMuchAtOnce`. */
  run<T>(person: number, res: Response, work: () => WorkInParts<T>): Promise<T> {
    const isGone = () => res.destroyed || res.closed;
    return this.ofOne(person, () => this.here(() => inTurns(work, isGone)));
  }

  /** The same for work that a thread does, which ends when `signal` says so. Throws `tooMuchAtOnce`. */
  async runAside<T>(person: number, res: Response, work: (signal: AbortSignal) => Promise<T>): Promise<T> {
    const gone = new AbortController();
    const onClose = () => gone.abort();
    res.once('close', onClose);
    try {
      return await this.ofOne(person, () =>
        this.aside(() => {
          if (res.destroyed || res.closed) throw new AppError('busy');
          return work(gone.signal);
        }),
      );
    } finally {
      res.off('close', onClose);
    }
  }

  private async ofOne<T>(person: number, work: () => Promise<T>): Promise<T> {
    const mine = this.byPerson.get(person) ?? 0;
    if (mine >= MOST_OF_ONE) throw new AppError('tooMuchAtOnce');
    this.byPerson.set(person, mine + 1);
    try {
      return await (this.shared ? inPlace(this.shared, person, mine, work) : work());
    } finally {
      const left = (this.byPerson.get(person) ?? 1) - 1;
      if (left > 0) this.byPerson.set(person, left);
      else this.byPerson.delete(person);
    }
  }
}

/** Each of a person's places is a lease. The first that is tried is one that this process does not have. */
async function inPlace<T>(orm: Orm, person: number, mine: number, work: () => Promise<T>): Promise<T> {
  for (let n = 0; n < MOST_OF_ONE; n++) {
    const place = `long work of ${person}, ${(mine + n) % MOST_OF_ONE}`;
    const taken = await underLease(orm, place, work);
    if (taken) return taken.result;
  }
  throw new AppError('tooMuchAtOnce');
}
