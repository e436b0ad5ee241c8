/** The run that a place wants to see on the term strip: a rule that is open in the composer shows its own. */
import { create } from 'zustand';
import type { Instant } from '@zest-bell/core/time';

export interface StripRun {
  /** Local dates, both included. */
  readonly from: string;
  readonly until: string;
  readonly rounds: readonly Instant[];
}

interface Strip {
  readonly run: StripRun | null;
  readonly show: (run: StripRun | null) => void;
}

export const useStripRun = create<Strip>()((set) => ({ run: null, show: (run) => set({ run }) }));
