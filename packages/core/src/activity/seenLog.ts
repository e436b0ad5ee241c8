/** One student’s history with items by their place in the course. Items that are no longer in the course are left out. */
import type { Course } from '../course/course.ts';
import type { Instant } from '../time/instant.ts';
import type { Gaps, History, PersonLog, Presence, StoredGrade } from './history.ts';

/** The items of a course and their keys in a history, both ways. */
export class SeenItems {
  /** By place in the course. */
  readonly keys: Int32Array;
  /** By key: the place in the course, −1 for an item that is not in it. */
  private readonly places: Int32Array;
  private readonly history: History;
  private readonly inOrder: boolean;

  constructor(course: Pick<Course, 'items'>, history: History) {
    this.keys = Int32Array.from(course.items, (item) => history.itemKeys.of(item.id));
    this.places = new Int32Array(history.itemKeys.all.length).fill(-1);
    this.keys.forEach((key, place) => (this.places[key] = place));
    this.inOrder = this.keys.every((key, place) => key === place);
    this.history = history;
  }

  /** Whether key and place are the same for all items that anything is known of. */
  get same(): boolean {
    return this.inOrder && this.history.itemKeys.all.length === this.keys.length;
  }

  placeOf(key: number): number {
    return this.places[key] ?? -1;
  }
}

export class SeenLog {
  private readonly log: PersonLog;
  private readonly items: SeenItems;
  private seenGrades: { readonly version: number; readonly grades: readonly StoredGrade[] } | null = null;

  constructor(log: PersonLog, items: SeenItems) {
    this.log = log;
    this.items = items;
  }

  /** Grows with every change of the log. */
  get version(): number {
    return this.log.version;
  }

  /** Ordered by instant; `item` is the place in the course. */
  get grades(): readonly StoredGrade[] {
    const { log, items } = this;
    if (items.same) return log.grades;
    if (this.seenGrades?.version !== log.version) {
      const grades = log.grades.flatMap((g) => {
        const item = items.placeOf(g.item);
        return item < 0 ? [] : [{ ...g, item }];
      });
      this.seenGrades = { version: log.version, grades };
    }
    return this.seenGrades.grades;
  }

  /** The instants of all events of the kinds in `mask`, in one item if `item` ≥ 0, in order. */
  instants(mask: number, item = -1): number[] {
    return this.log.instants(mask, item < 0 ? -1 : this.items.keys[item]!);
  }

  /** The first such instant, with −1 of those without an item; or Infinity. */
  first(mask: number, item: number): Instant {
    return this.log.first(mask, item < 0 ? -1 : this.items.keys[item]!);
  }

  /** The first grade above zero of an item, criteria aside, or Infinity. */
  firstCredit(item: number): Instant {
    return this.log.firstCredit(this.items.keys[item]!);
  }

  /** From when on each item of the course is done: by an act of its kind in `kinds`, or by credit; or Infinity. */
  firstDone(kinds: Uint8Array): readonly Instant[] {
    return this.log.firstDone(this.items.keys, kinds);
  }

  /** The latest instant ≤ t of an event of the kinds in `mask`, of any item; or null. */
  latest(mask: number, t: Instant): Instant | null {
    return this.log.latest(mask, t);
  }

  /** The time in which this person's visits cannot be counted (engine M5); `[Infinity, Infinity]` for none. */
  visitsNotKnown(): readonly [from: Instant, until: Instant] {
    return this.log.visitsNotKnown();
  }

  gaps(presence: Presence): Gaps {
    return this.log.gaps(presence);
  }
}
