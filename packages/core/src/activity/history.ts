/**
 * What happened in a course, as columns of numbers: for each person the instants in order and, beside each, a code of
 * kind and item. New events are appended where they belong without a rebuild; a late one is slotted in. The answer to any
 * question depends on the instants alone, not on the order of arrival (engine H3).
 *
 * People and items have stable keys of their own, so that a history outlives any change of roster or items: somebody who
 * leaves keeps what they did, and has it again when they come back.
 */
import { handOut, borrowRoom } from '../time/room.ts';
import type { Course } from '../course/course.ts';
import { Keys } from './keys.ts';
import { actCode, itemOfCode, kindBitOf, kindIndexOf, kindOfCode } from './actCode.ts';
import { HOUR, type Instant } from '../time/instant.ts';
import {
  EVENT_KINDS,
  PARTICIPATION,
  LAST_SEEN,
  SIGN_IN_EVIDENCE,
  VISIT_EVIDENCE,
  VISIT_RECORDS,
  type ActivityEvent,
  type EventKind,
  type Grade,
} from './event.ts';

const KINDS = EVENT_KINDS.length;

/** One person's events, ordered by instant; equal instants in order of arrival. */
export class PersonLog {
  times = new Float64Array(0);
  /** Codes of `actCode.ts`. */
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

  add(at: Instant, code: number): void {
    if (this.length === this.times.length) this.reserve(Math.max(16, this.length * 2));
    let i = this.length;
    while (i > 0 && this.times[i - 1]! > at) i--;
    if (i < this.length) {
      this.times.copyWithin(i + 1, i, this.length);
      this.codes.copyWithin(i + 1, i, this.length);
    }
    this.times[i] = at;
    this.codes[i] = code;
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

  /** Takes many events in any order, in one pass over what is there and what is new; equal instants in order of arrival. */
  addMany(times: readonly Instant[], codes: readonly number[]): void {
    const order = times.map((_, i) => i).sort((a, b) => times[a]! - times[b]! || a - b);
    const total = this.length + order.length;
    if (total > this.times.length) this.reserve(Math.max(16, Math.ceil(total * 1.5)));
    // From the end, so that nothing is written over before it has moved.
    let old = this.length - 1;
    let next = order.length - 1;
    for (let to = total - 1; next >= 0; to--) {
      const i = order[next]!;
      if (old >= 0 && this.times[old]! > times[i]!) {
        this.times[to] = this.times[old]!;
        this.codes[to] = this.codes[old]!;
        old--;
      } else {
        this.times[to] = times[i]!;
        this.codes[to] = codes[i]!;
        next--;
      }
    }
    this.length = total;
    this.version += order.length;
  }

  addGrade(grade: StoredGrade): void {
    let i = this.grades.length;
    while (i > 0 && this.grades[i - 1]!.at > grade.at) i--;
    this.grades.splice(i, 0, grade);
    this.version++;
  }

  /** The instants of all events of the kinds in `mask`, in one item if `item` ≥ 0, in order. */
  instants(mask: number, item = -1): number[] {
    const found = borrowRoom();
    let n = 0;
    if (item < 0) {
      const { times, codes, length } = this;
      for (let i = 0; i < length; i++) if ((kindBitOf(codes[i]!) & mask) !== 0) found[n++] = times[i]!;
      return handOut(found, n);
    }
    const { slots, starts, times } = this.slotIndex();
    if (item + 1 >= slots) return handOut(found, 0);
    let kinds = 0;
    for (let kind = 0; kind < KINDS; kind++) {
      if (((1 << kind) & mask) === 0) continue;
      kinds++;
      const slot = kind * slots + item + 1;
      for (let i = starts[slot]!; i < starts[slot + 1]!; i++) found[n++] = times[i]!;
    }
    const all = handOut(found, n);
    return kinds > 1 ? all.sort((a, b) => a - b) : all;
  }

  /** The first such instant, with −1 of those without an item; or Infinity. */
  first(mask: number, item: number): Instant {
    const { slots, starts, times } = this.slotIndex();
    let first = Infinity;
    if (item + 1 >= slots) return first;
    for (let kind = 0; kind < KINDS; kind++) {
      const slot = kind * slots + item + 1;
      const at = starts[slot]!;
      if (((1 << kind) & mask) !== 0 && at < starts[slot + 1]! && times[at]! < first) first = times[at]!;
    }
    return first;
  }

  /** The first grade above zero of an item, criteria aside, or Infinity. */
  firstCredit(item: number): Instant {
    return this.slotIndex().credits[item] ?? Infinity;
  }

  /**
   * From when on each of the items of a course is done: by an act of the one kind beside it, or by credit; or Infinity. `kinds`
   * represents the course: it is laid out once for the same ones.
   */
  firstDone(items: Int32Array, kinds: Uint8Array): readonly Instant[] {
    if (this.done?.version === this.version && this.done.kinds === kinds) return this.done.of;
    const { slots, starts, times, credits } = this.slotIndex();
    const found = borrowRoom();
    for (let i = 0; i < items.length; i++) {
      const item = items[i]!;
      let first = Infinity;
      if (item + 1 < slots) {
        const slot = kinds[i]! * slots + item + 1;
        first = credits[item]!;
        const at = starts[slot]!;
        if (at < starts[slot + 1]! && times[at]! < first) first = times[at]!;
      }
      found[i] = first;
    }
    this.done = { version: this.version, kinds, of: handOut(found, items.length) };
    return this.done.of;
  }

  /** The latest instant ≤ t of an event of the kinds in `mask`, of any item; or null. */
  latest(mask: number, t: Instant): Instant | null {
    for (let i = this.after(t) - 1; i >= 0; i--) if ((kindBitOf(this.codes[i]!) & mask) !== 0) return this.times[i]!;
    return null;
  }

  /** Whether the log has an event of the kinds in `mask`, with any item. */
  hasAny(mask: number): boolean {
    for (let i = 0; i < this.length; i++) if ((kindBitOf(this.codes[i]!) & mask) !== 0) return true;
    return false;
  }

  /** Whether there is an event of this code at this very instant. */
  has(at: Instant, code: number): boolean {
    for (let i = this.after(at) - 1; i >= 0 && this.times[i] === at; i--) if (this.codes[i] === code) return true;
    return false;
  }

  /** How many events have an instant ≤ t. */
  private after(t: Instant): number {
    let low = 0;
    let high = this.length;
    while (low < high) {
      const mid = (low + high) >> 1;
      if (this.times[mid]! <= t) low = mid + 1;
      else high = mid;
    }
    return low;
  }

  /** The gaps of a day and more between events of one of the three kinds of presence. */
  gaps(presence: Presence): Gaps {
    return this.slotIndex().gaps[presence];
  }

  /**
   * The time in which a list says when this person was last seen and no visit has been recorded, so that their visits cannot be counted
   * (engine M5); `[Infinity, Infinity]` if there is no such time.
   */
  visitsNotKnown(): readonly [from: Instant, until: Instant] {
    const { lastSeen, recorded } = this.slotIndex();
    return lastSeen < recorded ? [lastSeen, recorded] : [Infinity, Infinity];
  }

  private index: LogIndex | null = null;
  private done: { readonly version: number; readonly kinds: Uint8Array; readonly of: readonly Instant[] } | null = null;

  /** What all measures ask for again and again, in one pass over the events when first asked for. */
  private slotIndex(): LogIndex {
    if (this.index?.version === this.version) return this.index;
    const { times, codes, length } = this;
    let slots = 1;
    for (let i = 0; i < length; i++) slots = Math.max(slots, itemOfCode(codes[i]!) + 2);
    for (const g of this.grades) if (g.item + 1 >= slots) slots = g.item + 2;
    const starts = new Int32Array(KINDS * slots + 1);
    const visits = new GapList();
    const signIns = new GapList();
    const participation = new GapList();
    let lastSeen = Infinity;
    let recorded = Infinity;
    for (let i = 0; i < length; i++) {
      const code = codes[i]!;
      const bit = kindBitOf(code);
      const at = times[i]!;
      starts[kindIndexOf(code) * slots + itemOfCode(code) + 2]!++;
      if ((bit & SIGN_IN_EVIDENCE) === 0) continue;
      if (at - signIns.last >= SHORTEST_DAY) signIns.list.push(signIns.last, at);
      signIns.last = at;
      if (lastSeen === Infinity && (bit & LAST_SEEN) !== 0) lastSeen = at;
      if (recorded === Infinity && (bit & VISIT_RECORDS) !== 0) recorded = at;
      if ((bit & VISIT_EVIDENCE) === 0) continue;
      if (at - visits.last >= SHORTEST_DAY) visits.list.push(visits.last, at);
      visits.last = at;
      if ((bit & PARTICIPATION) === 0) continue;
      if (at - participation.last >= SHORTEST_DAY) participation.list.push(participation.last, at);
      participation.last = at;
    }
    for (let k = 1; k < starts.length; k++) starts[k]! += starts[k - 1]!;
    const bySlot = new Float64Array(length);
    const next = starts.slice();
    for (let i = 0; i < length; i++) {
      const slot = kindIndexOf(codes[i]!) * slots + itemOfCode(codes[i]!) + 1;
      bySlot[next[slot]!++] = times[i]!;
    }
    const credits = new Float64Array(slots - 1).fill(Infinity);
    for (const g of this.grades) {
      if (g.criterion === null && g.points > 0 && g.at < credits[g.item]!) credits[g.item] = g.at;
    }
    const gaps = { visits, signIns, participation };
    return (this.index = { version: this.version, slots, starts, times: bySlot, credits, gaps, lastSeen, recorded });
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

/**
 * A slot for each kind and item, kind by kind: first the events without an item, then those of each item in the order of their
 * keys. What a measure reads of many items lies side by side so.
 */
interface LogIndex {
  readonly version: number;
  /** Slots of one kind: one more than the items that are known of. */
  readonly slots: number;
  /** Instants of slot `k` stand in `times` from `starts[k]` to `starts[k + 1]`, in order. */
  readonly starts: Int32Array;
  readonly times: Float64Array;
  /** By item: the first grade above zero, criteria aside, or Infinity. */
  readonly credits: Float64Array;
  readonly gaps: Readonly<Record<Presence, Gaps>>;
  /** When the first event from a list of last visits or sign-ins happened; Infinity without one (engine M5). */
  readonly lastSeen: Instant;
  /** When the first recorded visit happened; Infinity without one (engine M5). */
  readonly recorded: Instant;
}

/** A grade of an item, by its key. */
export interface StoredGrade {
  readonly item: number;
  readonly criterion: string | null;
  readonly points: number;
  readonly at: Instant;
}

/** Events of many people, as columns of one length. */
export interface EventBatch {
  readonly people: readonly string[];
  readonly kinds: readonly EventKind[];
  readonly items: readonly (string | null)[];
  readonly times: readonly Instant[];
}

/** More facts than a course ever has. */
const EPOCH = 2 ** 32;

/** Events as columns, as one thread gives them to another. */
export interface EventColumnsOfPeople {
  readonly people: readonly string[];
  readonly items: readonly string[];
  readonly who: Int32Array;
  /** Codes of `actCode.ts`. */
  readonly codes: Int32Array;
  readonly times: Float64Array;
}

export class History {
  /** By a person's key. */
  readonly people: PersonLog[] = [];
  readonly personKeys = new Keys();
  readonly itemKeys = new Keys();
  /** How often facts were taken back: a history that was read anew for it has other versions than the one before. */
  epoch = 0;
  private events = 0;
  private grades = 0;

  /** A course given here has keys in its own order. Anybody else gets one when they first act. */
  constructor(course: Pick<Course, 'people' | 'items'> = { people: [], items: [] }) {
    for (const person of course.people) this.logOf(person.id);
    for (const item of course.items) this.itemKeys.of(item.id);
  }

  /** The log of a person, empty when they have done nothing. */
  logOf(person: string): PersonLog {
    const key = this.personKeys.of(person);
    return (this.people[key] ??= new PersonLog());
  }

  /** The code under which a log holds an event. */
  codeOf(kind: EventKind, item: string | null): number {
    return actCode(kind, item === null ? -1 : this.itemKeys.of(item));
  }

  /** Takes whole columns of a person, in order of time and with this history's own codes, in place of an empty log. */
  adopt(
    person: string,
    times: Float64Array<ArrayBuffer>,
    codes: Int32Array<ArrayBuffer>,
    grades: readonly StoredGrade[],
  ): void {
    const log = this.logOf(person);
    log.adopt(times, codes);
    for (const grade of grades) {
      log.addGrade(grade);
      if (grade.criterion !== null) this.criteria.add(grade.criterion);
    }
    this.events += times.length;
    this.grades += grades.length;
  }

  addEvent(event: ActivityEvent): void {
    this.events++;
    this.logOf(event.person).add(event.at, this.codeOf(event.kind, event.item));
  }

  /** Takes many events at once, in any order. */
  addEvents(batch: EventBatch): void {
    const byPerson = new Map<string, { times: Instant[]; codes: number[] }>();
    batch.times.forEach((at, i) => {
      const person = batch.people[i]!;
      let own = byPerson.get(person);
      if (!own) byPerson.set(person, (own = { times: [], codes: [] }));
      own.times.push(at);
      own.codes.push(this.codeOf(batch.kinds[i]!, batch.items[i]!));
    });
    for (const [person, { times, codes }] of byPerson) this.logOf(person).addMany(times, codes);
    this.events += batch.times.length;
  }

  /** Takes events `from` some place of columns `to` another, those of a person together. `codes` name `items` by their place there. */
  addColumns({ people, items, who, codes, times }: EventColumnsOfPeople, from: number, to: number): void {
    const itemKeys = items.map((id) => this.itemKeys.of(id));
    for (let start = from, end = from; start < to; start = end) {
      while (end < to && who[end] === who[start]) end++;
      const own = Array.from(codes.subarray(start, end), (code) => {
        const item = itemOfCode(code);
        return actCode(kindOfCode(code), item < 0 ? -1 : itemKeys[item]!);
      });
      this.logOf(people[who[start]!]!).addMany(Array.from(times.subarray(start, end)), own);
    }
    this.events += to - from;
  }

  /** Takes one grade; at one instant the one added later counts (engine H2). */
  addGrade(grade: Grade): void {
    this.grades++;
    const { criterion, points, at } = grade;
    if (criterion !== null) this.criteria.add(criterion);
    this.logOf(grade.person).addGrade({ item: this.itemKeys.of(grade.item), criterion, points, at });
  }

  /** The criteria of rubrics under which anybody has points. */
  readonly criteria = new Set<string>();

  /** Changes with every event and grade of anyone. */
  get version(): number {
    return this.epoch * EPOCH + this.events + this.grades;
  }

  /** Changes with every grade of anyone, and with nothing else. */
  get gradesVersion(): number {
    return this.epoch * EPOCH + this.grades;
  }

  get eventCount(): number {
    return this.people.reduce((sum, log) => sum + log.length, 0);
  }
}
