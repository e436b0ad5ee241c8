/** A long computation in parts, so that whatever else the thread has to do gets its turn in between. */
import { AsyncResource } from 'node:async_hooks';
import { setImmediate as nextTurn } from 'node:timers/promises';
import type { WorkInParts } from '@zest-bell/core/time';
import { AppError } from '../errors/errors.ts';

/** How long a turn may go on before others get theirs, in ms. */
const TURN = 12;

/** When the turn of the thread began in which something is done now; null until somebody asks. */
let began: number | null = null;

function turnBegan(): number {
  if (began === null) {
    began = performance.now();
    void nextTurn().then(() => (began = null));
  }
  return began;
}

/** This turn has taken its time. */
const isLong = (): boolean => performance.now() - turnBegan() >= TURN;

/** Steps that wait for a later turn, the oldest first. */
const waiting: (() => void)[] = [];
let isServing = false;

/**
 * Runs a step of something long: now, or in a later turn if this one has used up its time or other steps wait. Waiting steps run in the
 * order in which they came, as many in a turn as it has time for, each for the request or under the lease of its own caller.
 */
export function afterOthers<T>(step: () => T): T | Promise<T> {
  if (waiting.length === 0 && !isLong()) return step();
  if (!isServing) void serveTheWaiting();
  return new Promise<T>((resolve, reject) => {
    waiting.push(
      AsyncResource.bind(() => {
        try {
          resolve(step());
        } catch (error) {
          reject(error instanceof Error ? error : new Error(String(error)));
        }
      }),
    );
  });
}

async function serveTheWaiting(): Promise<void> {
  isServing = true;
  do {
    await nextTurn();
    began = null;
    // From here on the turn is counted, whatever follows from the steps included.
    turnBegan();
    do {
      waiting.shift()!();
      await Promise.resolve();
    } while (waiting.length > 0 && !isLong());
  } while (waiting.length > 0);
  isServing = false;
}

/** The result of `work`, in slices that yield to others. Throws `busy` once nobody waits any more. */
export async function inTurns<T>(
  work: () => WorkInParts<T>,
  isGone: () => boolean = () => false,
  onShare: (share: number) => void = () => undefined,
): Promise<T> {
  if (isGone()) throw new AppError('busy');
  const parts = work();
  for (;;) {
    turnBegan();
    const part = parts.next();
    if (part.done) return part.value;
    if (!isLong()) continue;
    if (part.value !== undefined) onShare(part.value);
    await nextTurn();
    if (isGone()) throw new AppError('busy');
  }
}
