import type { Clock } from '@zest-bell/core/time';

/** The machine's own clock. */
export const systemClock: Clock = { now: () => Date.now() };
