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

/**
 * A running course grade over the grades in order of their instants. An item due before enrolment enters once it is
 * graded; excused ones never do (engine M3).
 */
export class GradeTally {
  /** The latest points of each item in the course's order; NaN while there are none. */
  private readonly latest: Float64Array;
  private readonly subject: Subject;

  constructor(subject: Subject) {
    this.subject = subject;
    this.latest = new Float64Array(subject.course.items.length).fill(NaN);
  }

  take(grade: { item: number; criterion: string | null; points: number }): void {
    if (grade.criterion !== null) return;
    const item = this.subject.course.items[grade.item]!;
    if (!item.points || item.excused.includes(this.subject.person.id)) return;
    this.latest[grade.item] = grade.points;
  }

  /** Totals over all graded items, or over one group; summed in the course's order, whichever grade came first. */
  totals(group?: string): Totals {
    const sum: Totals = { earned: 0, possible: 0, graded: 0 };
    const { items } = this.subject.course;
    for (let i = 0; i < items.length; i++) {
      const points = this.latest[i]!;
      if (Number.isNaN(points)) continue;
      const item = items[i]!;
      if (group !== undefined && item.group !== group) continue;
      sum.earned += points;
      sum.possible += item.points!;
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
    return gradeOf(this.subject.course, (group) => this.totals(group));
  }
}

function gradeOf(course: Course, totals: (group?: string) => Totals): number | null {
  const weights = Object.entries(course.groupWeights ?? {}).filter(([, w]) => w > 0);
  if (weights.length === 0) {
    const all = totals();
    return all.graded === 0 ? null : percent(all.earned, all.possible);
  }
  let weighted = 0;
  let weight = 0;
  for (const [group, w] of weights) {
    const t = totals(group);
    if (t.graded === 0) continue;
    weighted += w * ((100 * t.earned) / t.possible);
    weight += w;
  }
  return weight === 0 ? null : round9(weighted / weight);
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
