/**
 * What happened in a course, as columns of numbers: for each person the instants in order and, beside each, a code of
 * kind and item. New events are appended where they belong without a rebuild; a late one is slotted in. The answer to any
 * question depends on the instants alone, not on the order of arrival (engine H3).
 */
import type { Course } from '../course/course.ts';
import { HOUR, type Instant } from '../time/instant.ts';
import {
  EVENT_KINDS,
  PARTICIPATION,
  SIGN_INS,
  VISITS,
  type ActivityEvent,
  type EventKind,
  type Grade,
} from './event.ts';

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

  /** Takes whole columns, already in order of time, in place of an empty log's. */
  adopt(times: Float64Array<ArrayBuffer>, codes: Int32Array<ArrayBuffer>): void {
    this.times = times;
    this.codes = codes;
    this.length = times.length;
    this.version += times.length;
  }

  /** Gives every event the code of its item in another course; those whose item is gone (−1) are dropped. */
  recode(itemCodes: Int32Array): void {
    let kept = 0;
    for (let i = 0; i < this.length; i++) {
      const item = itemCodes[this.codes[i]! >> KIND_BITS]!;
      if (item < 0) continue;
      this.times[kept] = this.times[i]!;
      this.codes[kept] = (this.codes[i]! & 15) | (item << KIND_BITS);
      kept++;
    }
    this.length = kept;
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
    const { times, codes, length } = this;
    if (item < 0) {
      for (let i = 0; i < length; i++) if (((1 << (codes[i]! & 15)) & mask) !== 0) out.push(times[i]!);
      return out;
    }
    const { starts, order } = this.itemIndex();
    const end = starts[item + 2] ?? 0;
    for (let k = starts[item + 1] ?? end; k < end; k++) {
      const i = order[k]!;
      if (((1 << (codes[i]! & 15)) & mask) !== 0) out.push(times[i]!);
    }
    return out;
  }

  /** The first such instant, with −1 of those without an item; or Infinity. */
  first(mask: number, item: number): Instant {
    const { starts, order } = this.itemIndex();
    const end = starts[item + 2] ?? 0;
    for (let k = starts[item + 1] ?? end; k < end; k++) {
      const i = order[k]!;
      if (((1 << (this.codes[i]! & 15)) & mask) !== 0) return this.times[i]!;
    }
    return Infinity;
  }

  /** The latest instant ≤ t of an event of the kinds in `mask`, of any item; or null. */
  latest(mask: number, t: Instant): Instant | null {
    let low = 0;
    let high = this.length;
    while (low < high) {
      const mid = (low + high) >> 1;
      if (this.times[mid]! <= t) low = mid + 1;
      else high = mid;
    }
    for (let i = low - 1; i >= 0; i--) if (((1 << (this.codes[i]! & 15)) & mask) !== 0) return this.times[i]!;
    return null;
  }

  /** The gaps of a day and more between events of one of the three kinds of presence. */
  gaps(of: Presence): Gaps {
    return this.itemIndex().gaps[of];
  }

  private index: LogIndex | null = null;

  /** What all measures ask for again and again, in one pass over the events when first asked for. */
  private itemIndex(): LogIndex {
    if (this.index?.version === this.version) return this.index;
    const { times, codes, length } = this;
    let items = 0;
    for (let i = 0; i < length; i++) if (codes[i]! >> KIND_BITS > items) items = codes[i]! >> KIND_BITS;
    const starts = new Int32Array(items + 2);
    const visits = new GapList();
    const signIns = new GapList();
    const participation = new GapList();
    for (let i = 0; i < length; i++) {
      const code = codes[i]!;
      const bit = 1 << (code & 15);
      starts[(code >> KIND_BITS) + 1]!++;
      if ((bit & SIGN_INS) === 0) continue;
      const at = times[i]!;
      if (at - signIns.last >= SHORTEST_DAY) signIns.list.push(signIns.last, at);
      signIns.last = at;
      if ((bit & VISITS) === 0) continue;
      if (at - visits.last >= SHORTEST_DAY) visits.list.push(visits.last, at);
      visits.last = at;
      if ((bit & PARTICIPATION) === 0) continue;
      if (at - participation.last >= SHORTEST_DAY) participation.list.push(participation.last, at);
      participation.last = at;
    }
    for (let k = 1; k < starts.length; k++) starts[k]! += starts[k - 1]!;
    const order = new Int32Array(length);
    const next = starts.slice();
    for (let i = 0; i < length; i++) order[next[codes[i]! >> KIND_BITS]!++] = i;
    this.index = { version: this.version, starts, order, gaps: { visits, signIns, participation } };
    return this.index;
  }
}

/** No day is shorter than 23 hours: only longer gaps can hold a day. */
const SHORTEST_DAY = 23 * HOUR;

export type Presence = 'visits' | 'signIns' | 'participation';

export interface Gaps {
  /** `[from, until, …]` of events in succession that lie 23 hours or more apart; the first from is −Infinity. */
  readonly list: readonly number[];
  /** The latest of them all, or −Infinity. */
  readonly last: Instant;
}

class GapList implements Gaps {
  readonly list: number[] = [];
  last = -Infinity;
}

interface LogIndex {
  readonly version: number;
  /** Events of item `k − 1` stand in `order` from `starts[k]` to `starts[k + 1]`; k is 0 for those without one. */
  readonly starts: Int32Array;
  readonly order: Int32Array;
  readonly gaps: Readonly<Record<Presence, Gaps>>;
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
  private changes = 0;
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
    this.changes++;
    this.people[person]!.add(event.at, EVENT_KINDS.indexOf(event.kind), item);
    return true;
  }

  /** Takes one grade; at one instant the one added later stands (engine H2). */
  addGrade(grade: Grade): boolean {
    const person = this.course.personIndex.get(grade.person);
    const item = this.course.itemIndex.get(grade.item);
    if (person === undefined || item === undefined) return false;
    this.changes++;
    this.people[person]!.addGrade({ item, criterion: grade.criterion, points: grade.points, at: grade.at });
    return true;
  }

  /** Changes with every event and grade of anyone. */
  get version(): number {
    return this.changes;
  }

  get eventCount(): number {
    return this.people.reduce((sum, log) => sum + log.length, 0);
  }
}

/** The kind of a stored code. */
export const kindOfCode = (code: number): EventKind => EVENT_KINDS[code & 15]!;
