/** The rest of the catalogue for the plain evaluator: each value computed anew at one instant, from the page's own words. */
import type { Leaf } from '../conditions/condition.ts';
import type { Course } from '../course/course.ts';
import type { Item } from '../course/item.ts';
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

const VISITS = ['visit', 'open', 'practice', 'submit', 'post', 'complete'];

const plusDays = (x: number, n: number, course: Course) => zoned(x, course.timeZone).add({ days: n }).epochMilliseconds;

/** The greatest n with x + n calendar days ≤ t. */
function days(x: number, t: number, course: Course): number {
  let n = 0;
  while (plusDays(x, n + 1, course) <= t) n++;
  return n;
}

const midnightBefore = (t: number, course: Course) => zoned(t, course.timeZone).startOfDay().epochMilliseconds;

/** M4. */
function inWindow(x: number, leaf: Leaf, t: number, course: Course): boolean {
  if (x > t) return false;
  const w = leaf.window;
  if (!w) return true;
  if ('last' in w) return t < plusDays(x, w.last.days, course);
  const z = zoned(t, course.timeZone);
  const from =
    'this' in w
      ? z
          .startOfDay()
          .subtract({ days: z.dayOfWeek - 1 })
          .toPlainDate()
          .toString()
      : w.since;
  return zoned(x, course.timeZone).toPlainDate().toString() >= from;
}

const eventsOf = (p: Person, h: PlainHistory, kinds: readonly string[], t: number) =>
  h.events.filter((e) => e.person === p.id && kinds.includes(e.kind) && e.at <= t).sort((a, b) => a.at - b.at);

/** M5: a list has said when they were last seen, and nothing has recorded a visit. */
const visitsAreUnknown = (p: Person, h: PlainHistory, t: number): boolean =>
  eventsOf(p, h, ['lastVisit', 'lastSignIn'], t).length > 0 &&
  eventsOf(p, h, ['visit', 'open', 'practice'], t).length === 0;

/** M3: sittings x with t < x + n days, minus those with x + n days ≤ t < x + 2n days. */
function changeAt(instants: readonly number[], n: number, p: Person, course: Course, t: number): number | null {
  if (plusDays(story(course, p), 2 * n, course) > t) return null;
  const lately = instants.filter((x) => t < plusDays(x, n, course)).length;
  const before = instants.filter((x) => plusDays(x, n, course) <= t && t < plusDays(x, 2 * n, course)).length;
  return lately - before;
}

function visitsAt(p: Person, leaf: Leaf, course: Course, h: PlainHistory, t: number): number | null {
  if (visitsAreUnknown(p, h, t)) return null;
  return sittingsOf(p, h, t).filter((x) => inWindow(x, leaf, t, course)).length;
}

/** H8. */
function sittingsOf(p: Person, h: PlainHistory, t: number): readonly number[] {
  const at = [...new Set(eventsOf(p, h, VISITS, t).map((e) => e.at))];
  return at.filter((x) => !at.some((y) => y < x && x - y < 30 * 60_000));
}

const active = (course: Course) => course.people.filter((p) => p.active && p.role === 'student');

const DOING: Record<string, string> = {
  assignment: 'submit',
  quiz: 'submit',
  forum: 'post',
  practice: 'practice',
  page: 'open',
  session: 'attend',
};

/** H7: done and when: the first act by t, or, with none, credited on time. */
function doneInTime(item: Item, p: Person, h: PlainHistory, t: number): 'onTime' | 'late' | null {
  const act = eventsOf(p, h, [DOING[item.kind]!], t).find((e) => e.item === item.id);
  const d = due(item, p);
  if (act) return d === null || act.at <= d ? 'onTime' : 'late';
  return isDone(item, p, h, t) ? 'onTime' : null;
}

/** Grades of the item that stand at some instant ≤ t: the latest, and when it was given. */
function latestGrade(item: Item, p: Person, h: PlainHistory, t: number, criterion: string | null = null) {
  let best: { at: number; points: number } | null = null;
  for (const g of h.grades) {
    if (g.person !== p.id || g.item !== item.id || g.criterion !== criterion || g.at > t) continue;
    if (best === null || g.at >= best.at) best = g;
  }
  return best;
}

type GradedItem = { group: string | null; points: number; of: number };

function gradedAt(p: Person, course: Course, grade: (i: Item) => number | null): GradedItem[] {
  return course.items.flatMap((i) => {
    const points = i.points === null || i.excused.includes(p.id) ? null : grade(i);
    return points === null ? [] : [{ group: i.group, points, of: i.points! }];
  });
}

const shareOf = (gs: readonly GradedItem[]) =>
  (100 * gs.reduce((s, g) => s + g.points, 0)) / gs.reduce((s, g) => s + g.of, 0);

function weighted(graded: readonly GradedItem[], course: Course): number | null {
  if (!course.groupWeights) return graded.length === 0 ? null : nine(shareOf(graded));
  let sum = 0;
  let weights = 0;
  for (const [group, weight] of Object.entries(course.groupWeights)) {
    const inGroup = graded.filter((g) => g.group === group);
    if (inGroup.length === 0) continue;
    sum += weight * shareOf(inGroup);
    weights += weight;
  }
  return weights === 0 ? null : nine(sum / weights);
}

export const courseGradeAt = (p: Person, course: Course, h: PlainHistory, t: number): number | null =>
  weighted(
    gradedAt(p, course, (i) => gradeAt(i, p, h, t)),
    course,
  );

function percentage(leaf: Leaf, p: Person, course: Course, h: PlainHistory, t: number): number | null {
  const item = course.items.find((i) => i.id === leaf.item);
  if (item) {
    const points = countsFor(item, p) ? gradeAt(item, p, h, t) : null;
    return points === null || !item.points ? null : nine((100 * points) / item.points);
  }
  if (leaf.group === undefined) return courseGradeAt(p, course, h, t);
  const graded = gradedAt(p, course, (i) => gradeAt(i, p, h, t)).filter((g) => g.group === leaf.group);
  return graded.length === 0 ? null : nine(shareOf(graded));
}

const mean = (values: readonly (number | null)[]): number | null => {
  const known = values.filter((v): v is number => v !== null);
  return known.length === 0 ? null : known.reduce((a, b) => a + b, 0) / known.length;
};

export function moreValueOf(leaf: Leaf, p: Person, course: Course, h: PlainHistory, t: number): V {
  const item = course.items.find((i) => i.id === leaf.item);
  const several = severalOf(leaf, course).filter((i) => countsFor(i, p));
  const graded = several.flatMap((i) => {
    const g = latestGrade(i, p, h, t);
    return g ? [{ at: g.at, points: g.points, item: i }] : [];
  });
  const than = typeof leaf.than === 'object' ? course.marks[leaf.than.mark]! : (leaf.than ?? 0);
  const night = midnightBefore(t, course);
  switch (leaf.measure) {
    case 'daysSinceParticipation': {
      const x = Math.max(story(course, p), ...eventsOf(p, h, ['practice', 'submit', 'post'], t).map((e) => e.at));
      let n = 0;
      while (plusCourseDays(x, n + 1, course) <= t) n++;
      return n;
    }
    case 'longestGap': {
      if (visitsAreUnknown(p, h, t)) return null;
      const start = story(course, p);
      const since = (kinds: readonly string[]) => eventsOf(p, h, kinds, t).filter((e) => e.at >= start);
      const visited = since(VISITS).map((e) => e.at);
      // M5: a last visit begins a gap, unless a visit follows within a course day.
      const listed = since(['lastVisit'])
        .map((e) => e.at)
        .filter((x) => !visited.some((y) => y >= x && y < plusCourseDays(x, 1, course)));
      let longest: number | null = null;
      for (const [i, until] of visited.entries()) {
        if (!inWindow(until, leaf, t, course)) continue;
        const from = Math.max(start, visited[i - 1] ?? start, ...listed.filter((x) => x <= until));
        let n = 0;
        while (plusCourseDays(from, n + 1, course) <= until) n++;
        longest = Math.max(longest ?? 0, n);
      }
      return longest;
    }
    case 'visits':
      return visitsAt(p, leaf, course, h, t);
    case 'visitsVsClass': {
      if (story(course, p) > night) return null;
      const m = mean(
        active(course)
          .filter((q) => story(course, q) <= night)
          .map((q) => visitsAt(q, leaf, course, h, night)),
      );
      const own = visitsAt(p, leaf, course, h, night);
      return m && own !== null ? nine((100 * (own - m)) / m) : null;
    }
    case 'visitsChange': {
      if (visitsAreUnknown(p, h, t)) return null;
      return changeAt(sittingsOf(p, h, t), leaf.days!, p, course, t);
    }
    case 'postsChange': {
      const ids = several.map((i) => i.id);
      const posts = eventsOf(p, h, ['post'], t).filter((e) => ids.includes(e.item ?? ''));
      return changeAt(
        posts.map((e) => e.at),
        leaf.days!,
        p,
        course,
        t,
      );
    }
    case 'share': {
      const released = several.filter((i) => i.opensAt === null || i.opensAt <= t);
      const touched = released.filter((i) => eventsOf(p, h, [leaf.of!], t).some((e) => e.item === i.id));
      return released.length === 0 ? null : nine((100 * touched.length) / released.length);
    }
    case 'dueSoon':
      return several.filter((i) => {
        const d = due(i, p);
        if (d === null || d <= t || isDone(i, p, h, t)) return false;
        if (leaf.days === undefined) return d <= t + leaf.hours! * 3_600_000;
        const last = zoned(t, course.timeZone).toPlainDate().add({ days: leaf.days });
        return zoned(d, course.timeZone).toPlainDate().toString() <= last.toString();
      }).length;
    case 'late':
      return several.filter((i) => due(i, p) !== null && doneInTime(i, p, h, t) === 'late').length;
    case 'onTimeShare': {
      const all = several.filter((i) => due(i, p) !== null && due(i, p)! <= t);
      const good = all.filter((i) => doneInTime(i, p, h, t) === 'onTime');
      return all.length === 0 ? null : nine((100 * good.length) / all.length);
    }
    case 'daysAwaitingGrade': {
      const first = eventsOf(p, h, ['submit'], t).find((e) => e.item === item!.id);
      return !first || latestGrade(item!, p, h, t) ? null : days(first.at, t, course);
    }
    case 'points':
      return latestGrade(item!, p, h, t)?.points ?? null;
    case 'criterion':
      return latestGrade(item!, p, h, t, leaf.criterion)?.points ?? null;
    case 'latestScore': {
      let best: (typeof graded)[number] | null = null;
      for (const g of graded) if (best === null || g.at >= best.at) best = g;
      return best?.item.points ? nine((100 * best.points) / best.item.points) : null;
    }
    case 'daysSinceGrade':
      return graded.length === 0 ? null : days(Math.max(...graded.map((g) => g.at)), t, course);
    case 'lowScores':
      return graded.filter((g) => g.item.points && nine((100 * g.points) / g.item.points) < than).length;
    case 'highScores':
      return graded.filter((g) => g.item.points && nine((100 * g.points) / g.item.points) >= than).length;
    case 'groupGrade':
      return percentage(leaf, p, course, h, t);
    case 'gradeVsClass': {
      const own = percentage(leaf, p, course, h, t);
      // Before a story begins nothing is known of a student, so they are not in the mean.
      const m = mean(
        active(course).map((q) => (story(course, q) <= night ? percentage(leaf, q, course, h, night) : null)),
      );
      return own === null || m === null ? null : nine(own - m);
    }
    case 'gradeChange': {
      const now = courseGradeAt(p, course, h, t);
      const aged = { ...h, grades: h.grades.filter((g) => plusDays(g.at, leaf.days!, course) <= t) };
      const before = courseGradeAt(p, course, aged, t);
      return now === null || before === null ? null : nine(now - before);
    }
    case 'posts': {
      const ids = several.map((i) => i.id);
      return eventsOf(p, h, ['post'], t).filter((e) => ids.includes(e.item ?? '') && inWindow(e.at, leaf, t, course))
        .length;
    }
    case 'streak': {
      const past = several
        .filter((i) => due(i, p) !== null && due(i, p)! <= t)
        .sort((a, b) => due(a, p)! - due(b, p)! || course.items.indexOf(a) - course.items.indexOf(b))
        .reverse();
      const broken = past.findIndex((i) => isDone(i, p, h, t) !== (leaf.of === 'done'));
      return broken < 0 ? past.length : broken;
    }
    case 'absences':
      return eventsOf(p, h, ['absent'], t).filter((e) => inWindow(e.at, leaf, t, course)).length;
    case 'daysEnrolled':
      return days(p.enrolledAt, t, course);
    case 'completed':
      return (
        eventsOf(p, h, ['complete'], t).some((e) => e.item === (leaf.item ?? null)) ||
        (['assignment', 'quiz', 'forum', 'session'].includes(item?.kind ?? '') && isDone(item!, p, h, t))
      );
    case 'field': {
      const raw = p.fields[leaf.name!];
      if (raw === undefined || String(raw).trim() === '') return null;
      return /^[+-]?\d+(\.\d+)?$/.test(String(raw).trim()) ? Number(raw) : String(raw).trim();
    }
    default:
      throw new Error(`The plain evaluator does not know ${leaf.measure}`);
  }
}
