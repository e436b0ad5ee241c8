/** A long computation in parts, so that whatever else the thread has to do gets its turn in between. */
import { setImmediate as nextTurn } from 'node:timers/promises';
import type { InParts } from '@zest-bell/core/time';
import { AppError } from '../http/errors.ts';

/** How long a part may go on before others get their turn, in ms. */
const TURN = 12;

/** Lets whatever else the thread has to do have its turn. */
export const othersTurn = (): Promise<void> => nextTurn();

/** To be called between the steps of something long: others have their turn whenever a part has taken its time. */
export function othersBetween(): () => Promise<void> {
  let from = performance.now();
  return async () => {
    if (performance.now() - from < TURN) return;
    await nextTurn();
    from = performance.now();
  };
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
