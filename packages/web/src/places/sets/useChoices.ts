/** What somebody chose for each course, and the yeses that a course asked for. */
import { useMemo, useState } from 'react';
import type { SetOutcome } from '@zest-bell/core/exchange';
import type { PartChoices } from '@zest-bell/core/sets';

export interface Choice {
  readonly picks: PartChoices;
  /** Its line is taken along. */
  readonly chosen: boolean;
  readonly confirmed: boolean;
  readonly outside: readonly string[];
  readonly problem: SetOutcome['problem'];
}

const FRESH: Choice = { picks: {}, chosen: true, confirmed: false, outside: [], problem: null };

export function useChoices() {
  const [all, setAll] = useState<Readonly<Record<number, Choice>>>({});
  const of = (course: number): Choice => all[course] ?? FRESH;
  const set = (course: number, next: Partial<Choice>) =>
    setAll((known) => ({ ...known, [course]: { ...(known[course] ?? FRESH), ...next } }));
  const picks = useMemo(
    () =>
      Object.fromEntries(Object.entries(all).flatMap(([course, c]) => (isEmpty(c.picks) ? [] : [[course, c.picks]]))),
    [all],
  );
  return { of, set, picks };
}

const isEmpty = (picks: PartChoices): boolean => Object.keys(picks).length === 0;

export type SetChoices = ReturnType<typeof useChoices>;
