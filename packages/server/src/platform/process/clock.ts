import type { Clock } from '@zest-bell/core';

/** The machine's own clock. */
export const systemClock: Clock = { now: () => Date.now() };
