/**
 * A second reading of engine §9 for property tests: everything is counted over lists of students, with shares as fractions, and every
 * value comes from the pointwise evaluator. It shares no code with the fast path.
 */
import type { Condition, Leaf } from '../conditions/condition.ts';
import type { Course } from '../course/course.ts';
import type { Person } from '../course/person.ts';
import { verdictAt, valueOf, type PlainHistory } from './pointwise.ts';
import { story, zoned } from './pointwiseBasics.ts';

export interface PlainCounts {
  readonly found: number;
  readonly missed: number;
  readonly needless: number;
  readonly leftAlone: number;
}
export interface PlainSign {
  readonly condition: Condition;
  readonly counts: PlainCounts;
  readonly honest: PlainCounts;
  readonly firstWeek: number | null;
  readonly alike: readonly Condition[];
}

type SignWithoutValue = Omit<Leaf, 'value'>;
interface PlainMember {
  readonly person: Person;
  readonly worried: boolean;
}

/** The candidates as the page lists them. */
function listed(course: Course, by: number): SignWithoutValue[] {
  const groups: string[] = [];
  for (const i of course.items) if (i.group !== null && !groups.includes(i.group)) groups.push(i.group);
  const of = (is: '>=' | '<=', measure: Leaf['measure'], more: Partial<Leaf> = {}): SignWithoutValue => ({
    measure,
    ...more,
    is,
  });
  const out: SignWithoutValue[] = [];
  for (const m of ['daysSinceSignIn', 'daysSinceVisit', 'daysSinceParticipation', 'longestGap', 'missing'] as const)
    out.push(of('>=', m));
  for (const group of groups) out.push(of('>=', 'missing', { group }));
  out.push(of('>=', 'late'), of('>=', 'absences'), of('>=', 'lowScores', { than: 60 }), of('>=', 'daysSinceGrade'));
  out.push(
    of('<=', 'visits', { window: { last: { days: 7 } } }),
    of('<=', 'visits', { window: { last: { days: 14 } } }),
  );
  out.push(of('<=', 'visits'));
  for (const act of ['open', 'practice', 'submit', 'post'] as const) out.push(of('<=', 'share', { of: act }));
  out.push(of('<=', 'onTimeShare'));
  for (const group of groups) out.push(of('<=', 'onTimeShare', { group }));
  out.push(of('<=', 'posts'), of('<=', 'courseGrade'));
  for (const group of groups) out.push(of('<=', 'groupGrade', { group }));
  out.push(of('<=', 'gradeVsClass'), of('<=', 'latestScore'), of('<=', 'gradeChange', { days: 14 }));
  for (const i of course.items) if (i.points !== null && i.points > 0) out.push(of('<=', 'score', { item: i.id }));
  for (const i of course.items)
    if (i.kind !== 'page' && i.dueAt !== null && i.dueAt <= by)
      out.push({ measure: 'submitted', item: i.id, is: 'equals' });
  return out;
}

export function plainSigns(course: Course, h: PlainHistory, outcome: Condition, at: number, by: number) {
  const P: PlainMember[] = [];
  for (const person of course.people) {
    if (!person.active || person.role !== 'student' || story(course, person) > by) continue;
    const worried = verdictAt(outcome, person, course, h, at);
    if (worried !== null) P.push({ person, worried });
  }
  const all = P.map((_, i) => i);
  const W = P.filter((m) => m.worried).length;
  const V = P.length - W;
  if (W < 5 || V < 5) return { worried: W, well: V, tooFew: true, signs: [], pairs: [] };

  const valueAt = (half: SignWithoutValue, i: number, t: number): number | null => {
    if (story(course, P[i]!.person) > t) return null;
    const v = valueOf({ ...half, value: 0 }, P[i]!.person, course, h, t);
    return v === 'notApplicable' || v === null ? null : Number(v);
  };
  const isFound = (half: SignWithoutValue, value: number | null, threshold: number) =>
    value !== null && (half.is === 'equals' ? value === 0 : half.is === '>=' ? value >= threshold : value <= threshold);
  /** J over some students, as the numerator over |W|·|V| of those students. */
  const j = (found: readonly number[], of: readonly number[]) => {
    const w = of.filter((i) => P[i]!.worried).length;
    const v = of.length - w;
    const fw = found.filter((i) => P[i]!.worried).length;
    return fw * v - (found.length - fw) * w;
  };
  const thresholdOver = (
    half: SignWithoutValue,
    values: readonly (number | null)[],
    set: readonly number[],
  ): number | null => {
    if (!set.some((i) => P[i]!.worried) || set.every((i) => P[i]!.worried)) return null;
    let best: { value: number; j: number; finds: number } | null = null;
    for (const value of new Set(set.flatMap((i) => values[i] ?? []))) {
      const found = set.filter((i) => isFound(half, values[i]!, value));
      const own = j(found, set);
      if (best === null || own > best.j || (own === best.j && found.length < best.finds))
        best = { value, j: own, finds: found.length };
    }
    return best?.value ?? null;
  };
  const countsOf = (found: readonly number[]): PlainCounts => {
    const hits = new Set(found);
    const n = (worried: boolean, hit: boolean) =>
      all.filter((i) => P[i]!.worried === worried && hits.has(i) === hit).length;
    return { found: n(true, true), missed: n(true, false), needless: n(false, true), leftAlone: n(false, false) };
  };
  const weekStarts: number[] = [];
  const begin = zoned(course.calendar.start, course.timeZone);
  for (let w = 1; begin.add({ days: 7 * w }).epochMilliseconds <= by; w++)
    weekStarts.push(begin.add({ days: 7 * w }).epochMilliseconds);

  const told = listed(course, by).flatMap((half) => {
    const values = all.map((i) => valueAt(half, i, by));
    if (half.measure === 'score' && 2 * values.filter((v) => v !== null).length < P.length) return [];
    const threshold = half.is === 'equals' ? 0 : thresholdOver(half, values, all);
    if (threshold === null) return [];
    const found = all.filter((i) => isFound(half, values[i]!, threshold));
    const honest = all.filter((i) => {
      const others = all.filter((o) => o % 5 !== i % 5);
      const taught = thresholdOver(half, values, others);
      return taught !== null && isFound(half, values[i]!, taught);
    });
    const condition = { ...half, value: half.is === 'equals' ? false : threshold } as Leaf;
    const early = weekStarts.findIndex((t) => {
      const then = all.filter((i) => isFound(half, valueAt(half, i, t), threshold));
      return 5 * j(then, all) >= 4 * j(found, all);
    });
    return [{ condition, found, honest, j: j(honest, all), firstWeek: early < 0 ? null : early + 1 }];
  });
  const order = told.map((s, n) => ({ s, n })).filter(({ s }) => s.j > 0);
  order.sort((a, b) => b.s.j - a.s.j || a.n - b.n);
  const signs: { s: (typeof told)[number]; alike: Condition[] }[] = [];
  for (const { s } of order) {
    const same = signs.find((k) => k.s.found.join() === s.found.join());
    if (same) same.alike.push(s.condition);
    else signs.push({ s, alike: [] });
  }
  const pairs: { condition: Condition; counts: PlainCounts; honest: PlainCounts; j: number }[] = [];
  const few = signs.slice(0, 12).map((x) => x.s);
  few.forEach((a, n) =>
    few.slice(n + 1).forEach((b) => {
      for (const kind of ['all', 'any'] as const) {
        const both = (x: readonly number[], y: readonly number[]) =>
          all.filter((i) => (kind === 'all' ? x.includes(i) && y.includes(i) : x.includes(i) || y.includes(i)));
        const honest = both(a.honest, b.honest);
        const own = j(honest, all);
        if ((own - Math.max(a.j, b.j)) * 20 < W * V) continue;
        const condition = kind === 'all' ? { all: [a.condition, b.condition] } : { any: [a.condition, b.condition] };
        pairs.push({ condition, counts: countsOf(both(a.found, b.found)), honest: countsOf(honest), j: own });
      }
    }),
  );
  pairs.sort((a, b) => b.j - a.j);
  return {
    worried: W,
    well: V,
    tooFew: false,
    signs: signs.map(({ s, alike }): PlainSign => ({
      condition: s.condition,
      counts: countsOf(s.found),
      honest: countsOf(s.honest),
      firstWeek: s.firstWeek,
      alike,
    })),
    pairs: pairs.map(({ condition, counts, honest }) => ({ condition, counts, honest })),
  };
}
