/**
 * The moment that the places speak of. It does not tick: everything on screen is about one moment, and is asked for once.
 * It moves when the demo clock is moved, when something is done here, when another place is opened after a while, and when
 * the instructor asks for the news.
 */
import { useEffect, useRef, useState } from 'react';
import { useLocation } from 'react-router';
import type { Instant } from '@zest-bell/core/time';
import type { ClockAnswer } from '@zest-bell/core/exchange';
import { clockQuery, queryClient, refreshAll, useStanding } from './queries.ts';

/** A place that is opened later than this after the last moment has its own, in ms. */
const A_WHILE = 60_000;

export interface Moment {
  readonly now: Instant;
  /** True when something happened since. */
  readonly hasNews: boolean;
  readonly update: () => void;
}

export function useMoment(course: number, clock: ClockAnswer | undefined): Moment | null {
  const news = useStanding(course).data?.news;
  const place = useLocation().pathname.split('/')[3];
  const [held, setHeld] = useState<{ now: Instant; news: string | undefined; place: string | undefined } | null>(null);
  const shown = useRef(place);
  const current = clock?.now;
  useEffect(() => {
    if (current === undefined) return;
    setHeld((before) => {
      const moved = clock!.demo && before !== null && before.now !== current;
      const opened = shown.current !== place && before !== null && current - before.now > A_WHILE;
      shown.current = place;
      if (before === null || moved || opened) return { now: current, news, place };
      return before.news === undefined && news !== undefined ? { ...before, news } : before;
    });
  }, [clock, current, news, place]);
  if (!held || current === undefined) return null;
  return {
    now: held.now,
    hasNews: !clock!.demo && held.news !== undefined && news !== undefined && held.news !== news,
    update: () => {
      // The clock as it is now, not as it was asked last: the news happened since.
      void queryClient.fetchQuery({ ...clockQuery, staleTime: 0 }).then(({ now }) => {
        setHeld({ now, news, place });
        return refreshAll();
      });
    },
  };
}
