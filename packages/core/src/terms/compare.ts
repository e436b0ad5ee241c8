/** Two terms side by side: the rules of both by their origin, what came of each, and what differed. */
import type { Course, CourseSettings } from '../course/course.ts';
import { carryRule } from '../carry/rules.ts';
import { itemsElsewhere } from '../carry/elsewhere.ts';
import { shiftBetween } from '../carry/shift.ts';
import { wilson, type Proportion } from '../outcomes/proportion.ts';
import { budgetWords } from '../rounds/advice/advice.ts';
import { differences } from '../rules/differences.ts';
import type { Rule } from '../rules/rule.ts';
import { clockWords, listWords } from '../time/words.ts';
import { WEEKDAY_NAMES, type Weekday } from '../time/weekday.ts';
import type { TermReport } from '../term/reportData.ts';

/** A course with the report of its term. */
export interface ReportedTerm {
  readonly course: Course;
  readonly rules: readonly Rule[];
  readonly report: TermReport;
  /** What its wordings are called. */
  readonly wordingName: (id: string) => string;
}

export type ReportedRule = TermReport['rules'][number];

/** Shares that both terms have of one kind, and whether their 95% ranges overlap. */
export interface ComparedShares {
  readonly what: 'returns' | 'replies' | 'found';
  readonly here: Proportion;
  readonly other: Proportion;
  /** Their ranges overlap: chance alone could have made the difference. */
  readonly couldBeChance: boolean;
}

export interface TermDifference {
  readonly part: string;
  readonly here: string;
  readonly other: string;
}

export interface RulePair {
  readonly here: ReportedRule;
  readonly other: ReportedRule;
  readonly shares: readonly ComparedShares[];
  readonly differences: readonly TermDifference[];
}

export interface TermsCompared {
  readonly pairs: readonly RulePair[];
  /** Rules without a partner, and what was sent by hand. */
  readonly alone: { readonly here: readonly ReportedRule[]; readonly other: readonly ReportedRule[] };
  /** Of the limits of the courses. */
  readonly limits: readonly TermDifference[];
}

/** Whether two ranges have a value in common. */
export const rangesOverlap = (a: Pick<Proportion, 'low' | 'high'>, b: Pick<Proportion, 'low' | 'high'>): boolean =>
  a.low <= b.high && b.low <= a.high;

/** `partners`: the ids of rules that have one origin, here and there. */
export function compareTerms(
  here: ReportedTerm,
  other: ReportedTerm,
  partners: readonly (readonly [here: string, other: string])[],
): TermsCompared {
  const find = ({ report }: ReportedTerm, rule: string) => report.rules.find((r) => r.rule === rule);
  const found = partners.flatMap(([a, b]) => {
    const [own, theirs] = [find(here, a), find(other, b)];
    return own && theirs ? [[own, theirs] as const] : [];
  });
  const order = new Map(here.report.rules.map((r, i) => [r.rule, i]));
  const pairs = found
    .toSorted(([a], [b]) => order.get(a.rule)! - order.get(b.rule)!)
    .map(([a, b]): RulePair => ({
      here: a,
      other: b,
      shares: sharesOf(a, b),
      differences: differencesOf(here, other, a.rule!, b.rule!),
    }));
  const paired = (side: 'here' | 'other') => new Set(pairs.map((p) => p[side].rule));
  const alone = ({ report }: ReportedTerm, known: ReadonlySet<string | null>) =>
    report.rules.filter((r) => r.rule === null || !known.has(r.rule));
  return {
    pairs,
    alone: { here: alone(here, paired('here')), other: alone(other, paired('other')) },
    limits: limitsOf(here.course.settings, other.course.settings),
  };
}

function sharesOf(here: ReportedRule, other: ReportedRule): ComparedShares[] {
  const compared = (what: ComparedShares['what'], a: Proportion | null, b: Proportion | null): ComparedShares[] =>
    a === null || b === null || a.of === 0 || b.of === 0
      ? []
      : [{ what, here: a, other: b, couldBeChance: rangesOverlap(a, b) }];
  return [
    ...compared('returns', here.result.returns, other.result.returns),
    ...compared('replies', here.result.replies, other.result.replies),
    ...compared('found', foundOf(here), foundOf(other)),
  ];
}

/** Of the students whom one worried about, the share that a rule found. */
function foundOf({ hindsight }: ReportedRule): Proportion | null {
  if (!hindsight) return null;
  const { found, missed } = hindsight.counts;
  return wilson(found, found + missed);
}

/** In the words of the term here: the other rule is read as it would be in this course, so that moved dates are no difference. */
function differencesOf(here: ReportedTerm, other: ReportedTerm, a: string, b: string): TermDifference[] {
  const [own, theirs] = [here.rules.find((r) => r.id === a), other.rules.find((r) => r.id === b)];
  if (!own || !theirs) return [];
  const names = new Map(theirs.steps.map((s) => [s.wording, other.wordingName(s.wording)]));
  const moved = carryRule(theirs, own.id, {
    shift: shiftBetween(other.course, here.course),
    source: other.course,
    target: here.course,
    items: itemsElsewhere(other.course, here.course),
  }).rule;
  const plain = { status: own.status, spellsFrom: own.spellsFrom, note: own.note, label: own.label };
  const said = (rule: Rule, nameOf: (id: string) => string) => ({
    ...rule,
    ...plain,
    steps: rule.steps.map((s) => ({ ...s, wording: nameOf(s.wording) })),
  });
  return differences(
    said(moved, (id) => names.get(id) ?? id),
    said(own, here.wordingName),
    here.course,
  ).map((d) => ({ part: d.part, here: d.after, other: d.before }));
}

const NONE = 'none';

function limitsOf(here: CourseSettings, other: CourseSettings): TermDifference[] {
  const parts: readonly (readonly [string, (s: CourseSettings) => string])[] = [
    ['Message budget', ({ budget }) => (budget === null ? NONE : budgetWords(budget))],
    ['Quiet hours', quietWords],
  ];
  return parts.flatMap(([part, words]) => {
    const [a, b] = [words(here), words(other)];
    return a === b ? [] : [{ part, here: a, other: b }];
  });
}

function quietWords({ quietHours }: CourseSettings): string {
  if (!quietHours) return NONE;
  const { from, to, days = [] } = quietHours;
  const parts = [
    ...(from && to && from !== to ? [`${clockWords(from)} to ${clockWords(to)}`] : []),
    ...(days.length > 0 ? [listWords(days.map((d) => `${WEEKDAY_NAMES[d as Weekday]}s`))] : []),
  ];
  return parts.join(', ') || NONE;
}
