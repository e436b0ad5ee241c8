import { kindMask } from '../activity/event.ts';
import type { SeenLog } from '../activity/seenLog.ts';
import type { Course } from '../course/course.ts';
import type { ItemKind } from '../course/item.ts';
import type { Instant } from '../time/instant.ts';

const DOING: Readonly<Record<ItemKind, number>> = {
  assignment: kindMask('submit'),
  quiz: kindMask('submit'),
  forum: kindMask('post'),
  practice: kindMask('practice'),
  page: kindMask('open'),
  session: kindMask('attend'),
};

const masks = new WeakMap<Course, Int32Array>();

/** The kinds of act that do each item of a course (engine H7), as bits. */
export function doingMasks(course: Course): Int32Array {
  let known = masks.get(course);
  if (!known) masks.set(course, (known = Int32Array.from(course.items, (item) => DOING[item.kind])));
  return known;
}

/** The first act that does an item of this kind (engine H7), or Infinity. */
export const firstDoing = (log: SeenLog, kind: ItemKind, item: number): Instant => log.first(DOING[kind], item);

/** The first grade above zero of an item, criteria aside, or Infinity. */
export function firstCredit(log: SeenLog, item: number): Instant {
  for (const g of log.grades) if (g.item === item && g.criterion === null && g.points > 0) return g.at;
  return Infinity;
}
