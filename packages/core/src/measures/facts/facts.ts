/** Where conditions get their timelines from: a course's history here, or what was sent to a browser. */
import { LRUCache } from 'lru-cache';
import { storyStart, type Course } from '../../course/course.ts';
import { isActiveStudent } from '../../course/person.ts';
import type { History } from '../../activity/history.ts';
import { SeenItems, SeenLog } from '../../activity/seenLog.ts';
import type { Instant } from '../../time/instant.ts';
import { callKey } from '../values/callKey.ts';
import { CATALOGUE } from '../catalogue/catalogue.ts';
import type { Fact } from '../values/fact.ts';
import { isGone, type Classmates, type ClassWide, type MeasureCall, type Subject } from '../values/measure.ts';
import { NOT_APPLICABLE, type Timeline } from '../values/timeline.ts';
import type { TruthStretches } from '../values/truth.ts';

export interface Facts {
  readonly course: Course;
  /** The timelines of one measure, for anyone who reads them of many people. */
  timelinesOf(call: MeasureCall): (person: number) => Timeline;
  timeline(person: number, call: MeasureCall): Timeline;
  fact(person: number, call: MeasureCall, t: Instant): Fact;
  /** What was computed of each condition, by the very object; it goes with the facts or with the condition. */
  readonly sides: WeakMap<object, TruthStretches>;
  /** Where conditions are being changed: what was computed of each comparison in them, by what it says. */
  readonly drafts?: { get(key: string): TruthStretches | undefined; set(key: string, sides: TruthStretches): unknown };
  /** Changes whenever what is known of the person changes, or, where given, that of the class. */
  version(person: number, classWide?: ClassWide): number;
}

/** Timelines of one measure, by place in the roster, and the version of what each was laid out from; side by side, as there are many. */
interface MeasureTimelines {
  readonly lines: (Timeline | undefined)[];
  readonly versions: Float64Array;
}

/** Measures and parameters with cached timelines: those of a course's rules and of the draft in the composer. */
const MOST_CALLS = 400;

/** Facts read off a history, each timeline computed once until the person's log changes. */
export class HistoryFacts implements Facts {
  readonly course: Course;
  readonly history: History;
  readonly sides: WeakMap<object, TruthStretches>;
  private readonly horizon: Instant;
  private readonly lines: LRUCache<string, MeasureTimelines>;
  private readonly subjects: readonly Subject[];
  private readonly classmates: Classmates;
  private readonly memos: Partial<
    Record<ClassWide, { readonly version: number; readonly memo: Map<string, unknown> }>
  > = {};

  /** `horizon`: how far ahead days are counted; the course's end when left out. `like`: has the same people and items. */
  constructor(course: Course, history: History, horizon: Instant = course.calendar.end, like?: HistoryFacts) {
    this.course = course;
    this.history = history;
    this.horizon = Math.max(horizon, course.calendar.end);
    this.sides = like?.sides ?? new WeakMap();
    this.lines = like?.lines ?? new LRUCache({ max: MOST_CALLS });
    if (like) {
      this.subjects = like.subjects;
      this.classmates = like.classmates;
      return;
    }
    const items = new SeenItems(course, history);
    const students = course.people.flatMap((p, i) => (isActiveStudent(p) ? [i] : []));
    let seen: readonly Subject[] | null = null;
    const classmates: Classmates = (this.classmates = {
      subjects: () => (seen ??= students.map((i) => this.subjects[i]!)),
      memo: (classWide) => this.memo(classWide),
    });
    this.subjects = course.people.map((person) => ({
      course,
      person,
      log: new SeenLog(history.logOf(person.id), items),
      story: storyStart(course, person),
      horizon: this.horizon,
      classmates,
    }));
  }

  /**
   * The same facts, with all that was computed of them, of the course as it is now. Its people, items, days, marks and weights must be
   * those of before: only addresses, pauses and settings may differ.
   */
  renamed(course: Course): HistoryFacts {
    return new HistoryFacts(course, this.history, this.horizon, this);
  }

  /** All active students as the measures see them, in roster order. */
  students(): readonly Subject[] {
    return this.classmates.subjects();
  }

  private memo(classWide: ClassWide): Map<string, unknown> {
    const version = this.classVersion(classWide);
    if (this.memos[classWide]?.version !== version) this.memos[classWide] = { version, memo: new Map() };
    return this.memos[classWide].memo;
  }

  private classVersion(classWide: ClassWide): number {
    return classWide === 'grades' ? this.history.gradesVersion : this.history.version;
  }

  timeline(person: number, call: MeasureCall): Timeline {
    return this.timelinesOf(call)(person);
  }

  timelinesOf(call: MeasureCall): (person: number) => Timeline {
    const key = callKey(call);
    let lines = this.lines.get(key);
    if (!lines) {
      const { length } = this.course.people;
      lines = { lines: new Array<Timeline | undefined>(length), versions: new Float64Array(length) };
      this.lines.set(key, lines);
    }
    if (isGone(this.course, call)) return () => NOT_APPLICABLE;
    const { lines: kept, versions } = lines;
    const measure = CATALOGUE[call.measure];
    return (person) => {
      const version = this.version(person, measure.classWide);
      const cached = kept[person];
      if (cached !== undefined && versions[person] === version) return cached;
      versions[person] = version;
      return (kept[person] = measure.timeline(this.subjects[person]!, call));
    };
  }

  fact(person: number, call: MeasureCall, t: Instant): Fact {
    if (isGone(this.course, call)) return { kind: 'gone' };
    return CATALOGUE[call.measure].fact(this.subjects[person]!, call, t);
  }

  /** Both only grow, and so does their sum: it changes with either. */
  version(person: number, classWide?: ClassWide): number {
    const own = this.subjects[person]!.log.version;
    return classWide === undefined ? own : own + this.classVersion(classWide);
  }
}
