/**
 * Long computations that somebody waits for. They run one at a time and in parts, so that rounds, mail and every other
 * request get their turn in between; one person has a few of them at most; and they end when nobody waits any more.
 */
import { setImmediate as nextTurn } from 'node:timers/promises';
import type { Response } from 'express';
import pLimit from 'p-limit';
import type { InParts } from '@zest-bell/core';
import { AppError } from './errors.ts';
import { lineWriter } from './http.ts';

/** How long a part may go on before others get their turn, in ms. */
const TURN = 12;
/** Between two words about how far it is, in ms. */
const BETWEEN = 100;
/** What one person may have running or waiting. */
const MOST_OF_ONE = 4;

export class LongWork {
  private readonly line = pLimit(1);
  private readonly byPerson = new Map<number, number>();

  /**
   * The same, told in lines while it goes on: `{ share }` now and then, whatever the work itself tells with `tell`, and
   * `{ answer }` at last.
   */
  async tell<T>(person: number, res: Response, work: (tell: (line: object) => void) => InParts<T>): Promise<void> {
    const write = lineWriter(res);
    let last = performance.now();
    const onShare = (share: number) => {
      if (performance.now() - last < BETWEEN) return;
      last = performance.now();
      write({ share });
    };
    write({ answer: await this.run(person, res, () => work(write), onShare) });
    res.end();
  }

  /** The result of `work` for the account `person`, unless the request is gone before. Throws `tooMuchAtOnce`. */
  async run<T>(person: number, res: Response, work: () => InParts<T>, onShare?: (share: number) => void): Promise<T> {
    const mine = this.byPerson.get(person) ?? 0;
    if (mine >= MOST_OF_ONE) throw new AppError('tooMuchAtOnce');
    this.byPerson.set(person, mine + 1);
    try {
      return await this.line(() => inTurns(work, () => res.destroyed || res.closed, onShare));
    } finally {
      const left = (this.byPerson.get(person) ?? 1) - 1;
      if (left > 0) this.byPerson.set(person, left);
      else this.byPerson.delete(person);
    }
  }
}

/** The result of `work`, whose parts let others have their turn in between. Throws `busy` once nobody waits any more. */
export async function inTurns<T>(
  work: () => InParts<T>,
  isGone: () => boolean = () => false,
  onShare: (share: number) => void = () => undefined,
): Promise<T> {
  if (isGone()) throw new AppError('busy');
  const parts = work();
  for (let from = performance.now(); ;) {
    const part = parts.next();
    if (part.done) return part.value;
    if (performance.now() - from < TURN) continue;
    if (part.value !== undefined) onShare(part.value);
    await nextTurn();
    if (isGone()) throw new AppError('busy');
    from = performance.now();
  }
}
