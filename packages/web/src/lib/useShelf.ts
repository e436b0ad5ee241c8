import { useQuery } from '@tanstack/react-query';
import { contract } from '@zest-bell/core/contract';
import type { ShelfKind, ShelfStanding } from '@zest-bell/core/exchange';
import { ask } from './api.ts';
import { atMoment } from './atMoment.ts';
import type { CourseHere } from './here.ts';

/** What the institution offers, as it would be in this course: with how many match now. */
export const useShelf = (here: CourseHere) =>
  useQuery({ ...atMoment(['shelf', here.id], here.now), queryFn: () => ask(contract.shelf.all, { course: here.id }) });

/** What of the course came from the shelf, and what is there: for pages that are about something else. */
export const useShelfStanding = (here: CourseHere) =>
  useQuery({ queryKey: ['shelfStanding', here.id], queryFn: () => ask(contract.shelf.standing, { course: here.id }) });

/** Of what on the shelf something in the course is a copy, if a newer version is there; null for all else. */
export function newerOnShelf(
  shelf: ShelfStanding | undefined,
  kind: ShelfKind,
  key: string,
): ShelfStanding['items'][number] | null {
  const copy = shelf?.copies.find((c) => c.kind === kind && c.key === key);
  const item = copy && shelf?.items.find((i) => i.id === copy.item);
  return item && !item.isRetired && item.version > copy.version ? item : null;
}
