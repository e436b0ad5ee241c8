/** One student's items: when they are done, when they are due, and which of them count. Laid out once for all who ask. */
import { counts, dueFor, type Course } from '../../course/course.ts';
import type { Person } from '../../course/person.ts';
import { doingKinds } from './done.ts';
import type { Instant } from '../../time/instant.ts';
import type { Subject } from '../values/measure.ts';

export interface Duties {
  /** The due instant of each item for this person; NaN where it has none (engine H5). */
  readonly due: Float64Array;
  /** 1 where the item counts for them (engine H6). */
  readonly counts: Uint8Array;
}

/** From when on each item of the course is done, by an act or by credit (engine H7); Infinity for never. */
export const doneOf = ({ log, course }: Subject): readonly Instant[] => log.firstDone(doingKinds(course));

const duties = new WeakMap<Course, WeakMap<Person, Duties>>();

export function dutiesOf({ course, person }: Subject): Duties {
  let ofCourse = duties.get(course);
  if (!ofCourse) duties.set(course, (ofCourse = new WeakMap()));
  let known = ofCourse.get(person);
  if (!known) {
    known = {
      due: Float64Array.from(course.items, (item) => dueFor(item, person) ?? NaN),
      counts: Uint8Array.from(course.items, (item) => (counts(item, person) ? 1 : 0)),
    };
    ofCourse.set(person, known);
  }
  return known;
}
