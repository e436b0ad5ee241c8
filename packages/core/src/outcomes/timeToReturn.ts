/** What came of nudges over time: who came back and when, beside spells in which nobody wrote (engine O1 to O3). */
import type { Course } from '../course/course.ts';
import type { HistoryFacts } from '../measures/facts/facts.ts';
import type { Decision } from '../rounds/decide/decision.ts';
import type { Rule } from '../rules/rule.ts';
import { DAY, type Instant } from '../time/instant.ts';
import { actAfter, canReturn, returnsEnd } from './returned.ts';
import { survivalCurve, type CurvePoint, type ObservedSpan } from './survival.ts';

/** A nudge that reached its student and that an act can answer. */
export interface ReturnClock {
  readonly student: string;
  readonly start: Instant;
  /** The student's act that ends what the rule found, whenever it was; null for none. */
  readonly act: Instant | null;
}

/** A spell with a first decision to hold back. */
export interface WithheldSpell extends ReturnClock {
  readonly reason: string;
  /** When nudges of the same rule went in the same spell nevertheless. */
  readonly sent: readonly Instant[];
}

export interface TimeToReturn {
  readonly nudges: number;
  /** Within two weeks (engine R13), and by the instant that is asked about. */
  readonly returned: number;
  /** Neither returned, nor are their two weeks over. */
  readonly open: number;
  readonly curve: readonly CurvePoint[];
  /** Of how many it is not yet known at each of `RISK_DAYS`, so that one sees how little the end of a curve rests on. */
  readonly atRisk: readonly number[];
}

/** Days since the clock started. */
export const RISK_DAYS = [0, 1, 2, 4, 7, 10, 14, 21, 28] as const;

const atRiskOf = (spans: readonly ObservedSpan[]): number[] =>
  RISK_DAYS.map((t) => spans.filter((s) => s.days >= t).length);

export interface Comparison {
  readonly spells: number;
  readonly curve: readonly CurvePoint[];
  readonly atRisk: readonly number[];
  /** Why the first decision of these spells was held back, and how often. */
  readonly reasons: Readonly<Record<string, number>>;
}

/** Up to when something is known of each student's clock. */
export interface ReturnObservations {
  readonly course: Course;
  readonly asOf: Instant;
  /** The clocks of every rule, by student. */
  readonly starts: ReadonlyMap<string, readonly Instant[]>;
}

/** `clocks` are those of every rule, whether an act can answer them or not: each ends what is known of the one before. */
export function whatIsKnown(
  course: Course,
  asOf: Instant,
  clocks: Iterable<{ readonly student: string; readonly start: Instant }>,
): ReturnObservations {
  const starts = new Map<string, Instant[]>();
  for (const { student, start } of clocks) {
    const own = starts.get(student);
    if (own) own.push(start);
    else starts.set(student, [start]);
  }
  return { course, asOf, starts };
}

export function timeToReturn(clocks: readonly ReturnClock[], known: ReturnObservations): TimeToReturn {
  const { asOf, course } = known;
  const read = clocks
    .filter((c) => c.start <= asOf)
    .map((c) => {
      const last = returnsEnd(c.start, course.calendar);
      const returned = c.act !== null && c.act < last && c.act <= asOf;
      return { returned, open: !returned && last > asOf, span: spanOf(c, known) };
    });
  const spans = read.map((r) => r.span);
  return {
    nudges: read.length,
    returned: read.filter((r) => r.returned).length,
    open: read.filter((r) => r.open).length,
    curve: survivalCurve(spans),
    atRisk: atRiskOf(spans),
  };
}

/** Spells in which a nudge of the rule went before the act are left out; one that went later ends what is known. */
export function comparisonOf(spells: readonly WithheldSpell[], known: ReturnObservations): Comparison {
  const spans: ObservedSpan[] = [];
  const reasons: Record<string, number> = {};
  for (const spell of spells) {
    const { act, sent, reason, start } = spell;
    if (start > known.asOf || (act !== null && sent.some((t) => t < act))) continue;
    spans.push(spanOf(spell, known, sent));
    reasons[reason] = (reasons[reason] ?? 0) + 1;
  }
  return { spells: spans.length, curve: survivalCurve(spans), atRisk: atRiskOf(spans), reasons };
}

/** Censored at the instant asked about, the course's end, or the student's next clock; at equal times acts come first. */
function spanOf(
  { student, start, act }: ReturnClock,
  known: ReturnObservations,
  more: readonly Instant[] = [],
): ObservedSpan {
  const { asOf, course, starts } = known;
  const next = [...(starts.get(student) ?? []), ...more].filter((t) => t > start);
  const until = Math.min(asOf, course.calendar.end, ...next);
  return act !== null && act <= until
    ? { days: (act - start) / DAY, act: true }
    : { days: (until - start) / DAY, act: false };
}

export interface RuleOutcomes extends TimeToReturn {
  readonly rule: string;
  readonly comparison: Comparison;
}

/** `decisions` are those of a replay, for all rules with nudges that may end a clock. */
export function ruleOutcomes(
  rules: readonly Rule[],
  facts: HistoryFacts,
  decisions: readonly Decision[],
  asOf: Instant,
): RuleOutcomes[] {
  const { course } = facts;
  const started = decisions.flatMap((d) =>
    d.outcome === 'sent' && d.to.some((to) => to.kind === 'student')
      ? [{ rule: d.rule, student: d.student, start: d.sendAt }]
      : [],
  );
  const known = whatIsKnown(course, asOf, started);
  return rules.map((rule): RuleOutcomes => {
    const actOf = (student: string, start: Instant): Instant | null =>
      actAfter(facts, course.personIndex.get(student)!, rule.when, start)?.at ?? null;
    const turnable = canReturn(rule.when);
    const clocks = (turnable ? started : [])
      .filter((c) => c.rule === rule.id && c.start <= asOf)
      .map(({ student, start }) => ({ student, start, act: actOf(student, start) }));
    const spells = turnable ? withheldFirst(decisions.filter((d) => d.rule === rule.id && d.round <= asOf)) : [];
    const compared = spells.map(({ first: { student, round: start, reason }, sent }) => ({
      student,
      start,
      reason,
      sent,
      act: actOf(student, start),
    }));
    return { rule: rule.id, ...timeToReturn(clocks, known), comparison: comparisonOf(compared, known) };
  });
}

type Withheld = Extract<Decision, { outcome: 'withheld' }>;

/** Spells of one rule that began with a decision to hold back, with the times of nudges that were sent in them all the same. */
function withheldFirst(decisions: readonly Decision[]): { first: Withheld; sent: Instant[] }[] {
  const spells = new Map<string, Decision[]>();
  for (const d of decisions) {
    const key = `${d.spellStart} ${d.student}`;
    const spell = spells.get(key);
    if (spell) spell.push(d);
    else spells.set(key, [d]);
  }
  return [...spells.values()].flatMap((spell) => {
    const first = spell[0]!;
    if (first.outcome !== 'withheld') return [];
    return [{ first, sent: spell.flatMap((d) => (d.outcome === 'sent' ? [d.sendAt] : [])) }];
  });
}
