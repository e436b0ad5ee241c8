import type { Instant } from '../time/instant.ts';

/** One student's work, item by item. */
export interface Work {
  /** From when on each item is done, by an act or by credit (engine H7); Infinity for never. */
  readonly done: readonly Instant[];
}

/** What a subject keeps of their work, until their log changes. */
export interface KeptWork {
  version: number;
  work: Work | null;
}
