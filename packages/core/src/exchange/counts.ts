/** What an observer is told of a course: counts, dates and titles, and nobody. */
import type { Instant } from '../time/instant.ts';
import type { SafeCount, SafeShare } from '../access/fewerThan.ts';

export interface CountsAnswer {
  readonly id: number;
  readonly code: string;
  readonly title: string;
  readonly timeZone: string;
  /** Local dates, both inclusive. */
  readonly start: string;
  readonly end: string;
  readonly now: Instant;
  readonly students: SafeCount;
  /** The weeks of the term so far: of the students, how many were active, and how many got a nudge. */
  readonly weeks: readonly { readonly from: string; readonly active: SafeShare; readonly nudged: SafeShare }[];
  readonly rules: readonly {
    readonly name: string;
    readonly isOn: boolean;
    /** Students that it wrote to, so far. */
    readonly reached: SafeShare;
    /** Of those, who came back within two weeks. */
    readonly cameBack: SafeShare;
  }[];
  /** Sections; those that are too small stand together. */
  readonly sections: readonly { readonly names: readonly string[]; readonly students: SafeCount }[];
}
