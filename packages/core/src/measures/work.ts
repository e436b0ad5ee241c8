/** One student's work, item by item, laid out once and shared by all measures that ask for it. */
import { counts, dueFor, type Course } from '../course/course.ts';
import type { Person } from '../course/person.ts';
import type { SeenLog } from '../activity/seenLog.ts';
import { firstDoing } from './done.ts';
import type { Subject } from './measure.ts';

export interface Work {
  /** From when on each item is done, by an act or by credit (engine H7); Infinity for never. */
  readonly done: Float64Array;
}

export interface Duties {
  /** The due instant of each item for this person; NaN where it has none (engine H5). */
  readonly due: Float64Array;
  /** 1 where the item counts for them (engine H6). */
  readonly counts: Uint8Array;
}

/** By a log as one course sees it, so that another course has another. */
const works = new WeakMap<SeenLog, { version: number; work: Work }>();

export function workOf(subject: Subject): Work {
  const { log, course } = subject;
  const known = works.get(log);
  if (known?.version === log.version) return known.work;
  const done = new Float64Array(course.items.length);
  for (let i = 0; i < done.length; i++) done[i] = firstDoing(log, course.items[i]!.kind, i);
  for (const g of log.grades) {
    if (g.criterion === null && g.points > 0 && g.at < done[g.item]!) done[g.item] = g.at;
  }
  const work = { done };
  works.set(log, { version: log.version, work });
  return work;
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
