/** The moment that places speak of, and when another takes its place. */
import type { Instant } from '@zest-bell/core/time';

/** A place that is opened later than this after the last moment has its own, in ms. */
export const A_WHILE = 60_000;

export interface HeldMoment {
  readonly now: Instant;
  /** What was known to have happened then; undefined while it was not known yet. */
  readonly news: string | undefined;
}

/** What the clock says, what has happened, and whether another place was opened. */
interface SeenMoment extends HeldMoment {
  readonly demo: boolean;
  readonly movedPlace: boolean;
}

/** The one before stays the same object where nothing changes. */
export function nextMoment(before: HeldMoment | null, { now, news, demo, movedPlace }: SeenMoment): HeldMoment {
  const moved = demo && before !== null && before.now !== now;
  const opened = movedPlace && before !== null && now - before.now > A_WHILE;
  if (before === null || moved || opened) return { now, news };
  return before.news === undefined && news !== undefined ? { ...before, news } : before;
}

export const isNews = (held: HeldMoment, news: string | undefined): boolean =>
  held.news !== undefined && news !== undefined && held.news !== news;
