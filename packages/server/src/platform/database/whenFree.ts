import { setTimeout as wait } from 'node:timers/promises';
import { LockWaitTimeoutException } from '@mikro-orm/core';
import { AppError } from '../http/errors.ts';

const PATIENCE = 15_000;

/** The query builder tells of a transaction that could not begin only with the first statement in it. */
const NOT_BEGUN = /Transaction query already complete/;

const isBusy = (error: unknown): boolean =>
  error instanceof LockWaitTimeoutException ||
  NOT_BEGUN.test(String(error)) ||
  /SQLITE_BUSY|database is locked/.test(String(error));

/** Runs a write that may find the database locked, again until it is free. */
export async function whenFree<T>(work: () => Promise<T>): Promise<T> {
  const until = Date.now() + PATIENCE;
  for (let pause = 5; ; pause = Math.min(100, pause * 2)) {
    try {
      return await work();
    } catch (error) {
      if (!isBusy(error)) throw error;
      if (Date.now() > until) throw new AppError('busy', [], error);
      await wait(pause + Math.random() * pause);
    }
  }
}
