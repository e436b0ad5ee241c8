import { useQuery } from '@tanstack/react-query';
import { contract } from '@zest-bell/core/contract';
import type { ShelfAnswer, ShelfItem, ShelfKind } from '@zest-bell/core/exchange';
import { ask } from './api.ts';
import { atMoment } from './atMoment.ts';
import type { CourseHere } from './here.ts';

/** What the institution offers, as it would be in this course. */
export const useShelf = (here: CourseHere) =>
  useQuery({ ...atMoment(['shelf', here.id], here.now), queryFn: () => ask(contract.shelf.all, { course: here.id }) });

/** Of what on the shelf something in the course is a copy, if a newer version is there; null for all else. */
export function newerOnShelf(shelf: ShelfAnswer | undefined, kind: ShelfKind, key: string): ShelfItem | null {
  const copy = shelf?.copies.find((c) => c.kind === kind && c.key === key);
  const item = copy && shelf?.items.find((i) => i.id === copy.item);
  return item && !item.isRetired && item.version > copy.version ? item : null;
}
