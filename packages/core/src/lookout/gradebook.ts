/** Every student by every item that is done or graded: what came of it, as of an instant. Laid out in columns, to be sent as they lie. */
import { pack, unpack } from '../activity/packed.ts';
import type { Course } from '../course/course.ts';
import type { Item } from '../course/item.ts';
import { GradeTally } from '../measures/catalogue/courseGrade.ts';
import type { Subject } from '../measures/values/measure.ts';
import { countingAmong, doneBy, onTimeBy, type CountingItem } from '../measures/catalogue/several.ts';
import { percent } from '../measures/values/value.ts';
import { MINUTE, type Instant } from '../time/instant.ts';

/**
 * What came of an item for a student: `excused` · `before` it was due before they enrolled · `open` it is not done and still
 * has time · `missing` · `onTime` · `late`. Done is as engine H7 says.
 */
const WORK_STATES = ['excused', 'before', 'open', 'missing', 'onTime', 'late'] as const;
export type WorkState = (typeof WORK_STATES)[number];

export interface GradebookCell {
  readonly state: WorkState;
  /** Latest points; null while ungraded. */
  readonly points: number | null;
  /** Points in percent of those possible; null while ungraded, or without points to reach. */
  readonly score: number | null;
  /** To the minute; null when it never was. */
  readonly doneAt: Instant | null;
  readonly gradedAt: Instant | null;
  readonly dueAt: Instant | null;
  /** Done, worth points, and without a grade. */
  readonly awaitsGrade: boolean;
}

interface GradebookScope {
  readonly at: Instant;
  /** Ids of people and of items, in the order of rows and columns. */
  readonly students: readonly string[];
  readonly items: readonly string[];
  readonly groups: readonly string[];
  /** What minutes are counted from. */
  readonly origin: Instant;
}

/** Whether an item has a column: whatever is worth points or has to be done by a day. */
const inGradebook = (item: Item): boolean => item.points !== null || item.dueAt !== null;

const NEVER = -1;

export class Gradebook {
  readonly about: GradebookScope;
  private readonly states: Uint8Array;
  /** NaN while ungraded. */
  private readonly points: Float64Array;
  /** Minutes since the origin. */
  private readonly done: Int32Array;
  private readonly graded: Int32Array;
  private readonly due: Int32Array;
  private readonly possible: Float64Array;
  /** The course grade of each student; NaN if absent. */
  private readonly courseGrades: Float64Array;
  /** Student by student, the grade within each group. */
  private readonly groupGrades: Float64Array;
  private readonly summaries: ItemSummary[] = [];

  private constructor(about: GradebookScope, columns: readonly (Uint8Array | Float64Array | Int32Array)[]) {
    this.about = about;
    const [states, points, done, graded, due, possible, courseGrades, groupGrades] = columns;
    this.states = states as Uint8Array;
    this.points = points as Float64Array;
    this.done = done as Int32Array;
    this.graded = graded as Int32Array;
    this.due = due as Int32Array;
    this.possible = possible as Float64Array;
    this.courseGrades = courseGrades as Float64Array;
    this.groupGrades = groupGrades as Float64Array;
  }

  /** Reads the work and the grades of each subject, a row each, as of `at` (engine H3); of all items, or of those that are `wanted`. */
  static of(
    course: Course,
    subjects: readonly Subject[],
    at: Instant,
    wanted: (item: Item) => boolean = inGradebook,
  ): Gradebook {
    const places = course.items.flatMap((item, i) => (wanted(item) ? [i] : []));
    const columnOf = new Int32Array(course.items.length).fill(-1);
    places.forEach((place, c) => (columnOf[place] = c));
    const groups = [...new Set(places.map((i) => course.items[i]!.group).filter((g) => g !== null))];
    const origin = course.calendar.start;
    const size = subjects.length * places.length;
    const minutes = (t: number) => (Number.isFinite(t) ? Math.floor((t - origin) / MINUTE) : NEVER);
    const states = new Uint8Array(size);
    const points = new Float64Array(size).fill(NaN);
    const done = new Int32Array(size).fill(NEVER);
    const graded = new Int32Array(size).fill(NEVER);
    const due = new Int32Array(size).fill(NEVER);
    const courseGrades = new Float64Array(subjects.length).fill(NaN);
    const groupGrades = new Float64Array(subjects.length * groups.length).fill(NaN);
    subjects.forEach((subject, row) => {
      const start = row * places.length;
      places.forEach((place, c) => {
        const excused = course.items[place]!.excused.includes(subject.person.id);
        states[start + c] = WORK_STATES.indexOf(excused ? 'excused' : 'before');
      });
      for (const item of countingAmong(subject, places)) {
        const c = columnOf[item.index]!;
        states[start + c] = WORK_STATES.indexOf(stateOf(item, at));
        if (doneBy(item, at)) done[start + c] = minutes(item.act <= at ? item.act : item.credit);
        if (item.due !== null) due[start + c] = minutes(item.due);
      }
      const tally = new GradeTally(subject);
      for (const g of subject.log.grades) {
        if (g.at > at) break;
        tally.take(g);
        const c = columnOf[g.item]!;
        if (g.criterion !== null || c < 0) continue;
        points[start + c] = g.points;
        graded[start + c] = minutes(g.at);
      }
      courseGrades[row] = tally.value() ?? NaN;
      groups.forEach((group, g) => (groupGrades[row * groups.length + g] = tally.groupValue(group) ?? NaN));
    });
    const about = {
      at,
      students: subjects.map((s) => s.person.id),
      items: places.map((i) => course.items[i]!.id),
      groups,
      origin,
    };
    const possible = Float64Array.from(places, (i) => course.items[i]!.points ?? NaN);
    return new Gradebook(about, [states, points, done, graded, due, possible, courseGrades, groupGrades]);
  }

  packed(): Uint8Array<ArrayBuffer> {
    const { states, points, done, graded, due, possible, courseGrades, groupGrades } = this;
    return pack(this.about, [states, points, done, graded, due, possible, courseGrades, groupGrades]);
  }

  /** Null for bytes that are no gradebook. */
  static unpack(bytes: Uint8Array): Gradebook | null {
    const found = unpack(bytes);
    return found?.columns.length === 8 ? new Gradebook(found.about as GradebookScope, found.columns) : null;
  }

  private instant(minutes: number): Instant | null {
    return minutes === NEVER ? null : this.about.origin + minutes * MINUTE;
  }

  cell(row: number, column: number): GradebookCell {
    const at = row * this.about.items.length + column;
    const state = WORK_STATES[this.states[at]!]!;
    const points = Number.isNaN(this.points[at]!) ? null : this.points[at]!;
    const possible = this.possible[column]!;
    return {
      state,
      points,
      score: points === null || !(possible > 0) ? null : percent(points, possible),
      doneAt: this.instant(this.done[at]!),
      gradedAt: this.instant(this.graded[at]!),
      dueAt: this.instant(this.due[at]!),
      awaitsGrade: points === null && possible > 0 && (state === 'onTime' || state === 'late'),
    };
  }

  courseGrade(row: number): number | null {
    return orNull(this.courseGrades[row]!);
  }

  groupGrade(row: number, group: number): number | null {
    return orNull(this.groupGrades[row * this.about.groups.length + group]!);
  }

  /** Over those who have one; null when nobody has. */
  meanCourseGrade(): number | null {
    return meanOf(this.courseGrades);
  }

  meanGroupGrade(group: number): number | null {
    return meanOf(this.about.students.map((_, row) => this.groupGrade(row, group) ?? NaN));
  }

  /** The state of an item over the class. Anyone who is excused or need not do it is in no count. */
  summary(column: number): ItemSummary {
    return (this.summaries[column] ??= this.summarize(column));
  }

  private summarize(column: number): ItemSummary {
    const { students } = this.about;
    const scores: number[] = [];
    const of = { missing: 0, late: 0, onTime: 0, open: 0, awaiting: 0, counted: 0 };
    for (let row = 0; row < students.length; row++) {
      const { state, score, awaitsGrade } = this.cell(row, column);
      if (state === 'excused' || state === 'before') continue;
      of.counted++;
      of[state]++;
      if (awaitsGrade) of.awaiting++;
      if (score !== null) scores.push(score);
    }
    return { ...of, graded: scores.length, mean: meanOf(scores), scores };
  }
}

export interface ItemSummary {
  readonly counted: number;
  readonly open: number;
  readonly missing: number;
  readonly onTime: number;
  readonly late: number;
  readonly graded: number;
  readonly awaiting: number;
  /** Percent; null when nothing is graded. */
  readonly mean: number | null;
  /** Of those that are graded, in the order of the rows. */
  readonly scores: readonly number[];
}

function stateOf(item: CountingItem, at: Instant): WorkState {
  if (doneBy(item, at)) return onTimeBy(item, at) ? 'onTime' : 'late';
  return item.due !== null && item.due <= at ? 'missing' : 'open';
}

const orNull = (n: number): number | null => (Number.isNaN(n) ? null : n);

function meanOf(values: Iterable<number>): number | null {
  let sum = 0;
  let n = 0;
  for (const v of values) {
    if (Number.isNaN(v)) continue;
    sum += v;
    n++;
  }
  return n === 0 ? null : sum / n;
}
