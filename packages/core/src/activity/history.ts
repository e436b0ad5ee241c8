/**
 * What happened in a course, as columns of numbers: for each person the instants in order and, beside each, a code of
 * kind and item. New events are appended where they belong without a rebuild; a late one is slotted in. The answer to any
 * question depends on the instants alone, not on the order of arrival (engine H3).
 */
import type { Course } from '../course/course.ts';
import type { Instant } from '../time/instant.ts';
import { EVENT_KINDS, type ActivityEvent, type EventKind, type Grade } from './event.ts';

const KIND_BITS = 4;

/** One person's events, ordered by instant; equal instants in order of arrival. */
export class PersonLog {
  times = new Float64Array(0);
  /** `kind | (item + 1) << 4`, item −1 for none. */
  codes = new Int32Array(0);
  length = 0;
  readonly grades: StoredGrade[] = [];
  /** Grows with every change, so that what was computed from the log can tell that it is old. */
  version = 0;

  reserve(capacity: number): void {
    if (capacity <= this.times.length) return;
    const times = new Float64Array(capacity);
    const codes = new Int32Array(capacity);
    times.set(this.times.subarray(0, this.length));
    codes.set(this.codes.subarray(0, this.length));
    this.times = times;
    this.codes = codes;
  }

  add(at: Instant, kind: number, item: number): void {
    if (this.length === this.times.length) this.reserve(Math.max(16, this.length * 2));
    let i = this.length;
    while (i > 0 && this.times[i - 1]! > at) i--;
    if (i < this.length) {
      this.times.copyWithin(i + 1, i, this.length);
      this.codes.copyWithin(i + 1, i, this.length);
    }
    this.times[i] = at;
    this.codes[i] = kind | ((item + 1) << KIND_BITS);
    this.length++;
    this.version++;
  }

  addGrade(grade: StoredGrade): void {
    let i = this.grades.length;
    while (i > 0 && this.grades[i - 1]!.at > grade.at) i--;
    this.grades.splice(i, 0, grade);
    this.version++;
  }

  /** The instants of all events of the kinds in `mask`, in one item if `item` ≥ 0, in order. */
  instants(mask: number, item = -1): number[] {
    const out: number[] = [];
    const wanted = item + 1;
    for (let i = 0; i < this.length; i++) {
      const code = this.codes[i]!;
      if (((1 << (code & 15)) & mask) !== 0 && (wanted === 0 || code >> KIND_BITS === wanted)) out.push(this.times[i]!);
    }
    return out;
  }

  /** The first such instant, or Infinity. */
  first(mask: number, item: number): Instant {
    const wanted = item + 1;
    for (let i = 0; i < this.length; i++) {
      const code = this.codes[i]!;
      if (((1 << (code & 15)) & mask) !== 0 && code >> KIND_BITS === wanted) return this.times[i]!;
    }
    return Infinity;
  }
}

/** A grade with its item as a roster-independent index. */
export interface StoredGrade {
  readonly item: number;
  readonly criterion: string | null;
  readonly points: number;
  readonly at: Instant;
}

export class History {
  readonly people: PersonLog[];
  private readonly course: Pick<Course, 'personIndex' | 'itemIndex'>;

  constructor(course: Pick<Course, 'people' | 'personIndex' | 'itemIndex'>) {
    this.course = course;
    this.people = course.people.map(() => new PersonLog());
  }

  /** Takes one event. Returns false when its person or item is not in the course. */
  addEvent(event: ActivityEvent): boolean {
    const person = this.course.personIndex.get(event.person);
    const item = event.item === null ? -1 : this.course.itemIndex.get(event.item);
    if (person === undefined || item === undefined) return false;
    this.people[person]!.add(event.at, EVENT_KINDS.indexOf(event.kind), item);
    return true;
  }

  /** Takes one grade; at one instant the one added later stands (engine H2). */
  addGrade(grade: Grade): boolean {
    const person = this.course.personIndex.get(grade.person);
    const item = this.course.itemIndex.get(grade.item);
    if (person === undefined || item === undefined) return false;
    this.people[person]!.addGrade({ item, criterion: grade.criterion, points: grade.points, at: grade.at });
    return true;
  }

  /** Changes with every event and grade of anyone. */
  get version(): number {
    return this.people.reduce((sum, log) => sum + log.version, 0);
  }

  get eventCount(): number {
    return this.people.reduce((sum, log) => sum + log.length, 0);
  }
}

/** The kind of a stored code. */
export const kindOfCode = (code: number): EventKind => EVENT_KINDS[code & 15]!;
