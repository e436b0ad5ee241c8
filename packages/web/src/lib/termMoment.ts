/** The moment of the term that a place looks at: chosen on the term strip, and now until it is. */
import { useEffect } from 'react';
import { create } from 'zustand';
import type { Instant } from '@zest-bell/core/time';
import type { CourseHere } from './here.ts';

interface TermMoment {
  /** Null: now. */
  readonly asOf: Instant | null;
  /** While a place follows the strip, a day that is chosen on it moves the moment; otherwise it opens the Send log. */
  readonly follows: boolean;
  readonly move: (asOf: Instant | null) => void;
  readonly follow: (follows: boolean) => void;
}

export const useTermMoment = create<TermMoment>()((set) => ({
  asOf: null,
  follows: false,
  move: (asOf) => set({ asOf }),
  follow: (follows) => set(follows ? { follows } : { follows, asOf: null }),
}));

/** The instant that an open page shows: the term strip moves it. */
export function useAsOf(here: CourseHere): Instant {
  const asOf = useTermMoment((s) => s.asOf);
  const { follow } = useTermMoment.getState();
  useEffect(() => {
    follow(true);
    return () => follow(false);
  }, [follow]);
  return asOf ?? here.now;
}
