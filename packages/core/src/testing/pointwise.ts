/**
 * A second evaluator for property tests: it reads the definitions of the engine page literally, at one instant, over a
 * plain list of events, day by day. It shares no code with the fast path beyond the types and Temporal.
 */
import type { Condition, Leaf } from '../conditions/condition.ts';
import type { Course } from '../course/course.ts';
import type { Person } from '../course/person.ts';
import {
  countsFor,
  due,
  gradeAt,
  isDone,
  nine,
  plusCourseDays,
  severalOf,
  story,
  zoned,
  type PlainHistory,
  type V,
} from './pointwiseBasics.ts';
import { courseGradeAt, moreValueOf } from './pointwiseMeasures.ts';

export type { PlainHistory } from './pointwiseBasics.ts';

export function valueOf(leaf: Leaf, p: Person, course: Course, h: PlainHistory, t: number): V {
  const item = course.items.find((i) => i.id === leaf.item);
  if (item && !countsFor(item, p)) return 'notApplicable';
  switch (leaf.measure) {
    case 'daysSinceSignIn':
    case 'daysSinceVisit': {
      const kinds = ['visit', 'open', 'practice', 'submit', 'post', 'complete', 'lastVisit'];
      if (leaf.measure === 'daysSinceSignIn') kinds.push('signIn', 'lastSignIn');
      let x = story(course, p);
      for (const e of h.events) if (e.person === p.id && kinds.includes(e.kind) && e.at <= t && e.at > x) x = e.at;
      let n = 0;
      while (plusCourseDays(x, n + 1, course) <= t) n++;
      return n;
    }
    case 'opens': {
      const since = leaf.window && 'last' in leaf.window ? leaf.window.last.days : null;
      return h.events.filter((e) => {
        if (e.person !== p.id || e.kind !== 'open' || e.item !== leaf.item || e.at > t) return false;
        return since === null || t < zoned(e.at, course.timeZone).add({ days: since }).epochMilliseconds;
      }).length;
    }
    case 'submitted':
      return isDone(item!, p, h, t);
    case 'hoursUntilDue': {
      const d = due(item!, p);
      return d === null ? null : nine((d - t) / 3_600_000);
    }
    case 'missing':
      return severalOf(leaf, course).filter((i) => {
        const d = due(i, p);
        return countsFor(i, p) && d !== null && d <= t && !isDone(i, p, h, t);
      }).length;
    case 'score': {
      const points = gradeAt(item!, p, h, t);
      return points === null || item!.points === null ? null : nine((100 * points) / item!.points);
    }
    case 'courseGrade':
      return courseGradeAt(p, course, h, t);
    default:
      return moreValueOf(leaf, p, course, h, t);
  }
}

/** Kleene's tables by their numbers: false 0, unknown ½, true 1; *and* the least, *or* the greatest, *not* 1 − x. */
function truth(c: Condition, p: Person, course: Course, h: PlainHistory, t: number): number {
  if ('all' in c) return Math.min(...c.all.map((x) => truth(x, p, course, h, t)));
  if ('any' in c) return Math.max(...c.any.map((x) => truth(x, p, course, h, t)));
  if ('none' in c) return 1 - Math.max(...c.none.map((x) => truth(x, p, course, h, t)));
  const v = valueOf(c, p, course, h, t);
  if (v === 'notApplicable') return 0.5;
  if (c.is === 'empty') return v === null ? 1 : 0;
  if (c.is === 'filled') return v === null ? 0 : 1;
  if (v === null) return 0.5;
  const w = typeof c.value === 'object' ? course.marks[c.value.mark]! : c.value!;
  if (typeof v !== typeof w) return 0.5;
  const verdict = {
    '>=': v >= w,
    '<=': v <= w,
    '>': v > w,
    '<': v < w,
    equals: v === w,
    differs: v !== w,
    contains: false,
  }[c.is];
  return verdict ? 1 : 0;
}

export function verdictAt(c: Condition, p: Person, course: Course, h: PlainHistory, t: number): boolean | null {
  if (t < story(course, p)) return null;
  const x = truth(c, p, course, h, t);
  return x === 1 ? true : x === 0 ? false : null;
}
