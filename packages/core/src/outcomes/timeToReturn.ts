/** What came of the nudges of rules over time: who came back and when, beside spells in which nobody wrote (engine O1 to O3). */
import type { HistoryFacts } from '../measures/facts.ts';
import type { Decision } from '../rounds/decide.ts';
import type { Rule } from '../rules/rule.ts';
import { DAY, type Instant } from '../time/instant.ts';
import { actAfter, canReturn, RETURN_DAYS } from './returned.ts';
import { survivalCurve, type CurvePoint, type Span } from './survival.ts';

export interface RuleOutcomes {
  readonly rule: string;
  /** Nudges with a clock, of a rule that can have returns. */
  readonly nudges: number;
  /** Within two weeks (engine R13), and by the instant that is asked about. */
  readonly returned: number;
  /** Neither returned, nor are their two weeks over. */
  readonly open: number;
  readonly curve: readonly CurvePoint[];
  readonly comparison: {
    readonly spells: number;
    readonly curve: readonly CurvePoint[];
    /** Why the first decision of these spells was held back, and how often. */
    readonly reasons: Readonly<Record<string, number>>;
  };
}

interface Clock {
  readonly rule: string;
  readonly student: string;
  readonly spellStart: Instant;
  readonly start: Instant;
}

/** `decisions` are those of a replay, of all rules whose nudges may end a clock. */
export function ruleOutcomes(
  rules: readonly Rule[],
  facts: HistoryFacts,
  decisions: readonly Decision[],
  asOf: Instant,
): RuleOutcomes[] {
  const { course } = facts;
  const clocks = decisions.flatMap((d): Clock[] =>
    d.outcome === 'sent' && d.to.some((to) => to.kind === 'student')
      ? [{ rule: d.rule, student: d.student, spellStart: d.spellStart, start: d.sendAt }]
      : [],
  );
  const starts = new Map<string, Instant[]>();
  for (const c of clocks) starts.set(c.student, [...(starts.get(c.student) ?? []), c.start]);
  /** Until when something is known of a clock: as of now, the course's end, the student's next clock, a nudge of the rule. */
  const knownUntil = (student: string, start: Instant, more: readonly Instant[] = []): Instant =>
    Math.min(asOf, course.calendar.end, ...[...(starts.get(student) ?? []), ...more].filter((t) => t > start));
  const spanOf = (start: Instant, act: Instant | null, until: Instant): Span =>
    // At equal times acts come before censorings.
    act !== null && act <= until
      ? { days: (act - start) / DAY, act: true }
      : { days: (until - start) / DAY, act: false };
  return rules.map((rule) => {
    const actOf = (student: string, start: Instant): Instant | null =>
      actAfter(facts, course.personIndex.get(student)!, rule.when, start)?.at ?? null;
    const own = canReturn(rule.when) ? clocks.filter((c) => c.rule === rule.id && c.start <= asOf) : [];
    const read = own.map((c) => {
      const act = actOf(c.student, c.start);
      const last = course.calendar.addDays(c.start, RETURN_DAYS);
      const returned = act !== null && act < last && act <= asOf;
      return { returned, open: !returned && last > asOf, span: spanOf(c.start, act, knownUntil(c.student, c.start)) };
    });
    const compared = canReturn(rule.when) ? comparisonOf(rule, decisions, asOf) : [];
    const spans: Span[] = [];
    const reasons: Record<string, number> = {};
    for (const { first, sent } of compared) {
      const act = actOf(first.student, first.round);
      if (act !== null && sent.some((t) => t < act)) continue;
      spans.push(spanOf(first.round, act, knownUntil(first.student, first.round, sent)));
      reasons[first.reason] = (reasons[first.reason] ?? 0) + 1;
    }
    return {
      rule: rule.id,
      nudges: own.length,
      returned: read.filter((r) => r.returned).length,
      open: read.filter((r) => r.open).length,
      curve: survivalCurve(read.map((r) => r.span)),
      comparison: { spells: spans.length, curve: survivalCurve(spans), reasons },
    };
  });
}

/** Spells of a rule whose first decision was to hold back, with when nudges of the rule went in them nevertheless. */
function comparisonOf(rule: Rule, decisions: readonly Decision[], asOf: Instant) {
  const spells = new Map<string, Decision[]>();
  for (const d of decisions) {
    if (d.rule !== rule.id || d.round > asOf) continue;
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
