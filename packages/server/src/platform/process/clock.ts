/**
 * What time it is. Of several machines each has a clock of its own: all go by that of the database that they share, so that what one
 * of them sets an end to ends for all at once.
 */
import type { Clock } from '@zest-bell/core/time';

/** What the shared clock is ahead of this machine's, in ms. */
let ahead = 0;

/** Now, in ms since 1970. */
export const wallClock = (): number => Date.now() + ahead;

export const systemClock: Clock = { now: wallClock };

/**
 * A moment of the real clock as a page shows it, by the clock that courses go by: in the demo they stand weeks apart, and what ends in
 * seven days ends seven days after the day that the demo is at.
 */
export const shownBy = (clock: Clock, at: number): number =>
  clock === systemClock ? at : at + clock.now() - wallClock();

/** Less than this, in ms, is as likely the way to the database. */
const ALIKE = 250;

/** Sets this process's clock by another, asked by `ask`, which may take a moment to answer. */
export async function setClockBy(ask: () => Promise<number>): Promise<void> {
  const from = Date.now();
  const there = await ask();
  const here = (from + Date.now()) / 2;
  ahead = Math.abs(there - here) < ALIKE ? 0 : Math.round(there - here);
}
