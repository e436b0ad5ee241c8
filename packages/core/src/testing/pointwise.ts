/**
 * A second evaluator for property tests: it reads the definitions of the engine page literally, at one instant, over a
 * plain list of events, day by day. It shares no code with the fast path beyond the types and Temporal.
 */
import { Temporal } from 'temporal-polyfill';
import type { Condition, Leaf } from '../conditions/condition.ts';
import type { Course } from '../course/course.ts';
import type { Item } from '../course/item.ts';
import type { Person } from '../course/person.ts';
import type { ActivityEvent, Grade } from '../activity/event.ts';

export interface PlainHistory {
  readonly events: readonly ActivityEvent[];
  readonly grades: readonly Grade[];
}

type V = number | boolean | null | 'notApplicable';

const zoned = (t: number, zone: string) => Temporal.Instant.fromEpochMilliseconds(t).toZonedDateTimeISO(zone);

function inBreak(date: Temporal.PlainDate, course: Course): boolean {
  const iso = date.toString();
  return course.breaks.some((b) => b.from <= iso && iso <= b.to);
}

/** T4, by walking the dates. */
function plusCourseDays(x: number, n: number, course: Course): number {
  const from = zoned(x, course.timeZone);
  let date = from.toPlainDate();
  for (let left = n; left > 0;) {
    date = date.add({ days: 1 });
    if (!inBreak(date, course)) left--;
  }
  return date.toZonedDateTime({ timeZone: course.timeZone, plainTime: from.toPlainTime() }).epochMilliseconds;
}

const story = (course: Course, p: Person): number =>
  Math.max(Temporal.PlainDate.from(course.start).toZonedDateTime(course.timeZone).epochMilliseconds, p.enrolledAt);

function due(item: Item, p: Person): number | null {
  for (const e of item.extensions) if (e.person === p.id) return e.dueAt;
  for (const e of item.extensions) if (e.section !== undefined && e.section === p.section) return e.dueAt;
  return item.dueAt;
}

function countsFor(item: Item, p: Person): boolean {
  const d = due(item, p);
  return !item.excused.includes(p.id) && !(d !== null && d <= p.enrolledAt);
}

const DOES: Record<string, string> = {
  assignment: 'submit',
  quiz: 'submit',
  forum: 'post',
  practice: 'practice',
  page: 'open',
  session: 'attend',
};

function isDone(item: Item, p: Person, h: PlainHistory, t: number): boolean {
  if (h.events.some((e) => e.person === p.id && e.item === item.id && e.kind === DOES[item.kind] && e.at <= t))
    return true;
  return h.grades.some(
    (g) => g.person === p.id && g.item === item.id && g.criterion === null && g.at <= t && g.points > 0,
  );
}

function gradeAt(item: Item, p: Person, h: PlainHistory, t: number): number | null {
  let best: Grade | null = null;
  for (const g of h.grades) {
    if (g.person !== p.id || g.item !== item.id || g.criterion !== null || g.at > t) continue;
    if (best === null || g.at >= best.at) best = g;
  }
  return best?.points ?? null;
}

const nine = (x: number) => Number(x.toFixed(9));

export function valueOf(leaf: Leaf, p: Person, course: Course, h: PlainHistory, t: number): V {
  const item = course.items.find((i) => i.id === leaf.item);
  if (item && !countsFor(item, p)) return 'notApplicable';
  const chosen = course.items.filter(
    (i) => (!leaf.items || leaf.items.includes(i.id)) && (leaf.group === undefined || i.group === leaf.group),
  );
  switch (leaf.measure) {
    case 'daysSinceSignIn':
    case 'daysSinceVisit': {
      const kinds = ['visit', 'open', 'practice', 'submit', 'post', 'complete'];
      if (leaf.measure === 'daysSinceSignIn') kinds.push('signIn');
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
      return chosen.filter((i) => {
        const d = due(i, p);
        return countsFor(i, p) && d !== null && d <= t && !isDone(i, p, h, t);
      }).length;
    case 'score': {
      const points = gradeAt(item!, p, h, t);
      return points === null || item!.points === null ? null : nine((100 * points) / item!.points);
    }
    case 'courseGrade': {
      const graded = course.items
        .filter((i) => i.points !== null && !i.excused.includes(p.id))
        .map((i) => ({ group: i.group, points: gradeAt(i, p, h, t), of: i.points! }))
        .filter((g): g is { group: string | null; points: number; of: number } => g.points !== null);
      const share = (gs: typeof graded) =>
        (100 * gs.reduce((s, g) => s + g.points, 0)) / gs.reduce((s, g) => s + g.of, 0);
      if (!course.groupWeights) return graded.length === 0 ? null : nine(share(graded));
      let sum = 0;
      let weights = 0;
      for (const [group, weight] of Object.entries(course.groupWeights)) {
        const of = graded.filter((g) => g.group === group);
        if (of.length === 0) continue;
        sum += weight * share(of);
        weights += weight;
      }
      return weights === 0 ? null : nine(sum / weights);
    }
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
