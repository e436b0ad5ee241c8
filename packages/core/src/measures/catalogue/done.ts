import { EVENT_KINDS, kindMask, type EventKind } from '../../activity/event.ts';
import type { SeenLog } from '../../activity/seenLog.ts';
import type { Course } from '../../course/course.ts';
import type { ItemKind } from '../../course/item.ts';
import type { Instant } from '../../time/instant.ts';

/** The kind of act that does an item of each kind (engine H7). */
export const DOING: Readonly<Record<ItemKind, EventKind>> = {
  assignment: 'submit',
  quiz: 'submit',
  forum: 'post',
  practice: 'practice',
  page: 'open',
  session: 'attend',
};

const kinds = new WeakMap<Course, Uint8Array>();

/** The kind of act that does each item of a course (engine H7), as it is stored. */
export function doingKinds(course: Course): Uint8Array {
  let known = kinds.get(course);
  if (!known) {
    known = Uint8Array.from(course.items, (item) => EVENT_KINDS.indexOf(DOING[item.kind]));
    kinds.set(course, known);
  }
  return known;
}

/** The first act that does an item of this kind (engine H7), or Infinity. */
export const firstDoing = (log: SeenLog, kind: ItemKind, item: number): Instant =>
  log.first(kindMask(DOING[kind]), item);
