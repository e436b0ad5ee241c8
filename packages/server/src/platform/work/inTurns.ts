/** A long computation in parts, so that whatever else the thread has to do gets its turn in between. */
import { setImmediate as nextTurn } from 'node:timers/promises';
import type { InParts } from '@zest-bell/core/time';
import { AppError } from '../http/errors.ts';

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

/** Does a step of something long, where this turn has taken its time already after others had theirs. */
export const afterOthers = <T>(step: () => T): T | Promise<T> =>
  isLong() ? nextTurn().then(() => afterOthers(step)) : step();

/** The result of `work`, whose parts let others have their turn in between. Throws `busy` once nobody waits any more. */
export async function inTurns<T>(
  work: () => InParts<T>,
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
