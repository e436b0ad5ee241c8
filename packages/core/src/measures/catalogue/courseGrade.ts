/** Points earned out of points possible over what is graded, or the weighted mean of the weighted groups. */
import type { Course } from '../../course/course.ts';
import type { Instant } from '../../time/instant.ts';
import { type Measure, type Subject, ofWords } from '../values/measure.ts';
import { NumbersBuilder } from '../values/numbersBuilder.ts';
import type { Numbers } from '../values/timeline.ts';
import { percent, round9 } from '../values/value.ts';

interface Totals {
  earned: number;
  possible: number;
  graded: number;
}

/** How a course counts points, laid out once: which items have points, their groups, and the groups that weigh. */
interface PointsLayout {
  /** Places of items with points, in the course's order. */
  readonly items: readonly number[];
  /** Points possible and group of each of them. */
  readonly possible: readonly number[];
  readonly groups: readonly (string | null)[];
  /** By place in the course: which of the items it is; −1 for one without points. */
  readonly itemAt: readonly number[];
  /** What each sum weighs: that of a weighted group, or that of the whole course. */
  readonly weights: readonly number[];
  /** For each of the items, which of the sums it counts in; −1 for none. */
  readonly sumOf: readonly number[];
  /** What a tally begins with: no points of any item, and nothing in any sum. */
  readonly ungraded: readonly number[];
  readonly empty: readonly number[];
}

const countings = new WeakMap<Course, PointsLayout>();

function countingOf(course: Course): PointsLayout {
  let known = countings.get(course);
  if (!known) {
    const items = course.items.flatMap((item, i) => (item.points ? [i] : []));
    const groups = items.map((i) => course.items[i]!.group);
    const weighted = Object.entries(course.groupWeights ?? {}).filter(([, w]) => w > 0);
    const weights = weighted.length === 0 ? [1] : weighted.map(([, weight]) => weight);
    known = {
      items,
      groups,
      weights,
      possible: items.map((i) => course.items[i]!.points!),
      itemAt: course.items.map((_, i) => items.indexOf(i)),
      sumOf: groups.map((g) => (weighted.length === 0 ? 0 : weighted.findIndex(([group]) => group === g))),
      ungraded: items.map(() => NaN),
      empty: [...weights, ...weights].map(() => 0),
    };
    countings.set(course, known);
  }
  return known;
}

/** Sums of whole numbers up to here are exact in whatever order they are made. */
const WHOLE = 2 ** 40;
const isWhole = (points: number): boolean => Number.isInteger(points) && Math.abs(points) < WHOLE;

/**
 * A running course grade over the grades in order of their instants. An item due before enrolment enters once it is
 * graded; excused ones never do (engine M3). Sums are made in the course's order, whichever grade came first; as long as all
 * points are whole numbers they are carried on from grade to grade, which gives the same.
 */
export class GradeTally {
  /** The latest points of each item with points, in the course's order; NaN while there are none. */
  private readonly latest: number[];
  private readonly subject: Subject;
  private readonly counting: PointsLayout;
  /** [earned, possible] of each sum; null once points that are no whole numbers came in. */
  private carried: number[] | null;

  constructor(subject: Subject) {
    this.subject = subject;
    this.counting = countingOf(subject.course);
    this.latest = this.counting.ungraded.slice();
    this.carried = this.counting.empty.slice();
  }

  take(grade: { item: number; criterion: string | null; points: number }): void {
    if (grade.criterion !== null) return;
    const { counting, latest, carried } = this;
    const k = counting.itemAt[grade.item]!;
    if (k < 0) return;
    const { excused } = this.subject.course.items[grade.item]!;
    if (excused.length > 0 && excused.includes(this.subject.person.id)) return;
    const before = latest[k]!;
    latest[k] = grade.points;
    if (carried === null) return;
    const possible = counting.possible[k]!;
    if (!isWhole(grade.points) || !isWhole(possible)) {
      this.carried = null;
      return;
    }
    const sum = counting.sumOf[k]!;
    if (sum < 0) return;
    if (Number.isNaN(before)) {
      carried[2 * sum]! += grade.points;
      carried[2 * sum + 1]! += possible;
    } else carried[2 * sum]! += grade.points - before;
  }

  /** Totals over all graded items, or over one group. */
  totals(group?: string): Totals {
    const sum: Totals = { earned: 0, possible: 0, graded: 0 };
    const { items, possible, groups } = this.counting;
    for (let k = 0; k < items.length; k++) {
      const points = this.latest[k]!;
      if (Number.isNaN(points) || (group !== undefined && groups[k] !== group)) continue;
      sum.earned += points;
      sum.possible += possible[k]!;
      sum.graded++;
    }
    return sum;
  }

  /** The percentage within one group; null when nothing of it is graded. */
  groupValue(group: string): number | null {
    const { earned, possible, graded } = this.totals(group);
    return graded === 0 ? null : percent(earned, possible);
  }

  static at(subject: Subject, t: Instant): GradeTally {
    const tally = new GradeTally(subject);
    for (const g of subject.log.grades) if (g.at <= t) tally.take(g);
    return tally;
  }

  value(): number | null {
    const { weights } = this.counting;
    const sums = this.carried ?? this.sumsInOrder();
    // Whatever is graded has points possible.
    if (weights.length === 1) return sums[1] === 0 ? null : percent(sums[0]!, sums[1]!);
    let weighted = 0;
    let weight = 0;
    for (let w = 0; w < weights.length; w++) {
      if (sums[2 * w + 1] === 0) continue;
      weighted += weights[w]! * ((100 * sums[2 * w]!) / sums[2 * w + 1]!);
      weight += weights[w]!;
    }
    return weight === 0 ? null : round9(weighted / weight);
  }

  /** [earned, possible] of each sum, in one pass over the items. */
  private sumsInOrder(): number[] {
    const { items, weights, sumOf, possible } = this.counting;
    const sums = new Array<number>(2 * weights.length).fill(0);
    for (let k = 0; k < items.length; k++) {
      const points = this.latest[k]!;
      const sum = sumOf[k]!;
      if (sum < 0 || Number.isNaN(points)) continue;
      sums[2 * sum]! += points;
      sums[2 * sum + 1]! += possible[k]!;
    }
    return sums;
  }
}

/** Steps of what a tally says, from grade to grade. */
export function gradeLine(subject: Subject, value: (tally: GradeTally) => number | null): Numbers {
  const steps = new NumbersBuilder();
  const tally = new GradeTally(subject);
  steps.set(subject.story, null);
  for (const g of subject.log.grades) {
    tally.take(g);
    steps.set(Math.max(g.at, subject.story), value(tally));
  }
  return steps.build();
}

export const courseGrade: Measure = {
  name: 'courseGrade',
  mergeField: 'student.course_grade',
  family: 'grades',
  unit: 'percent',
  title: 'Course grade',
  parameters: {},
  timeline: (subject) => gradeLine(subject, (tally) => tally.value()),
  fact(subject, _call, t) {
    const tally = GradeTally.at(subject, t);
    const totals = tally.totals();
    if (totals.graded === 0) return { kind: 'ungraded' };
    const groups = Object.entries(subject.course.groupWeights ?? {}).flatMap(([name, weight]) => {
      const value = weight > 0 ? tally.groupValue(name) : null;
      return value === null ? [] : [{ name, percent: value, weight }];
    });
    return { kind: 'total', ...totals, ...(groups.length > 0 && { groups }) };
  },
  label: () => 'course grade',
  clause: (test) => ({ lead: 'have', marked: `a course grade ${ofWords(test)}` }),
  known: () => ['no course grade yet', 'a course grade'],
  phrases: [
    'course grade [of|is|was] {n:%}',
    { say: 'no course grade [yet]', is: 'empty' },
    { say: 'course grade', is: 'filled' },
    '[scored|with|at] {n:%} [in] overall',
    '[scored|with|at] {n:%} in course',
    'grade [of|is] {n:%} [in course|overall]',
  ],
};
