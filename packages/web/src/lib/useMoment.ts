/**
 * The moment that the places speak of. It does not tick: everything on screen is about one moment, and is asked for once.
 * It moves when the demo clock is moved, when something is done here, when another place is opened after a while, and when
 * the instructor asks for the news.
 */
import { useEffect, useRef, useState } from 'react';
import { useLocation } from 'react-router';
import type { Instant } from '@zest-bell/core/time';
import type { ClockAnswer } from '@zest-bell/core/exchange';
import { isNews, nextMoment, type HeldMoment } from './heldMoment.ts';
import { clockQuery, queryClient, refreshAll, useStanding } from './queries.ts';

export interface Moment {
  readonly now: Instant;
  /** True when something happened since. */
  readonly hasNews: boolean;
  readonly update: () => void;
}

export function useMoment(course: number, clock: ClockAnswer | undefined): Moment | null {
  const news = useStanding(course).data?.news;
  const place = useLocation().pathname.split('/')[3];
  const [held, setHeld] = useState<HeldMoment | null>(null);
  const shown = useRef(place);
  const current = clock?.now;
  useEffect(() => {
    if (current === undefined) return;
    const from = shown.current;
    shown.current = place;
    setHeld((before) => nextMoment(before, { now: current, demo: clock!.demo, news, movedPlace: from !== place }));
  }, [clock, current, news, place]);
  if (!held || current === undefined) return null;
  return {
    now: held.now,
    hasNews: !clock!.demo && isNews(held, news),
    update: () => {
      // The clock as it is now, not as it was asked last: the news happened since.
      void queryClient.fetchQuery({ ...clockQuery, staleTime: 0 }).then(({ now }) => {
        setHeld({ now, news });
        return refreshAll();
      });
    },
  };
}
