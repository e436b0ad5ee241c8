/** One student's work, item by item, laid out once and shared by all measures that ask for it. */
import { counts, dueFor, type Course } from '../course/course.ts';
import type { Person } from '../course/person.ts';
import { doingKinds } from './done.ts';
import type { Work } from './keptWork.ts';
import type { Subject } from './measure.ts';

export interface Duties {
  /** The due instant of each item for this person; NaN where it has none (engine H5). */
  readonly due: Float64Array;
  /** 1 where the item counts for them (engine H6). */
  readonly counts: Uint8Array;
}

export function workOf(subject: Subject): Work {
  const { log, course, kept } = subject;
  if (kept.work && kept.version === log.version) return kept.work;
  const done = log.firsts(doingKinds(course));
  for (const g of log.grades) {
    if (g.criterion === null && g.points > 0 && g.at < done[g.item]!) done[g.item] = g.at;
  }
  kept.version = log.version;
  return (kept.work = { done });
}

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
