/** Points earned out of points possible over what is graded, or the weighted mean of the weighted groups. */
import type { Course } from '../course/course.ts';
import type { Instant } from '../time/instant.ts';
import { comparisonWords, type Measure, type Subject } from './measure.ts';
import { StepsBuilder, type Steps } from './timeline.ts';
import { percent, round9 } from './value.ts';

interface Totals {
  earned: number;
  possible: number;
  graded: number;
}

/** How a course counts points, laid out once: which items have points, their groups, and the groups that weigh. */
interface Counting {
  /** Places of items with points, in the course's order. */
  readonly items: readonly number[];
  /** Points possible and group of each of them. */
  readonly possible: readonly number[];
  readonly groups: readonly (string | null)[];
  readonly weights: readonly (readonly [group: string, weight: number])[];
  /** For each of the items, which of the weights is its group's; −1 for none. */
  readonly weightOf: readonly number[];
}

const countings = new WeakMap<Course, Counting>();

function countingOf(course: Course): Counting {
  let known = countings.get(course);
  if (!known) {
    const items = course.items.flatMap((item, i) => (item.points ? [i] : []));
    const groups = items.map((i) => course.items[i]!.group);
    const weights = Object.entries(course.groupWeights ?? {}).filter(([, w]) => w > 0);
    known = {
      ...{ items, groups, weights, possible: items.map((i) => course.items[i]!.points!) },
      weightOf: groups.map((g) => weights.findIndex(([group]) => group === g)),
    };
    countings.set(course, known);
  }
  return known;
}

/**
 * A running course grade over the grades in order of their instants. An item due before enrolment enters once it is
 * graded; excused ones never do (engine M3). Sums are made in the course's order, whichever grade came first.
 */
export class GradeTally {
  /** The latest points of each item in the course's order; NaN while there are none. */
  private readonly latest: number[];
  private readonly subject: Subject;
  private readonly counting: Counting;

  constructor(subject: Subject) {
    this.subject = subject;
    this.counting = countingOf(subject.course);
    this.latest = new Array<number>(subject.course.items.length).fill(NaN);
  }

  take(grade: { item: number; criterion: string | null; points: number }): void {
    if (grade.criterion !== null) return;
    const item = this.subject.course.items[grade.item]!;
    if (!item.points || item.excused.includes(this.subject.person.id)) return;
    this.latest[grade.item] = grade.points;
  }

  /** Totals over all graded items, or over one group. */
  totals(group?: string): Totals {
    const sum: Totals = { earned: 0, possible: 0, graded: 0 };
    const { items, possible, groups } = this.counting;
    for (let k = 0; k < items.length; k++) {
      const points = this.latest[items[k]!]!;
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
    const { items, weights, weightOf, possible } = this.counting;
    if (weights.length === 0) {
      const all = this.totals();
      return all.graded === 0 ? null : percent(all.earned, all.possible);
    }
    // All groups in one pass: [earned, possible] of each.
    const sums = new Array<number>(2 * weights.length).fill(0);
    for (let k = 0; k < items.length; k++) {
      const points = this.latest[items[k]!]!;
      const w = weightOf[k]!;
      if (w < 0 || Number.isNaN(points)) continue;
      sums[2 * w]! += points;
      sums[2 * w + 1]! += possible[k]!;
    }
    let weighted = 0;
    let weight = 0;
    for (let w = 0; w < weights.length; w++) {
      // Whatever is graded has points possible.
      if (sums[2 * w + 1] === 0) continue;
      weighted += weights[w]![1] * ((100 * sums[2 * w]!) / sums[2 * w + 1]!);
      weight += weights[w]![1];
    }
    return weight === 0 ? null : round9(weighted / weight);
  }
}

/** Steps of what a tally says, from grade to grade. */
export function gradeLine(subject: Subject, value: (tally: GradeTally) => number | null): Steps {
  const steps = new StepsBuilder();
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
    const totals = GradeTally.at(subject, t).totals();
    return totals.graded === 0 ? { kind: 'ungraded' } : { kind: 'total', ...totals };
  },
  label: () => 'course grade',
  clause(test) {
    if (test.is === 'empty') return { lead: 'have', marked: 'no course grade yet' };
    if (test.is === 'filled') return { lead: 'have', marked: 'a course grade' };
    return {
      lead: 'have',
      marked: `a course grade of ${comparisonWords(test)}`.replace('of over', 'over').replace('of under', 'under'),
    };
  },
};
