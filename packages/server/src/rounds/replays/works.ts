/** The replays that a thread of its own does: each is an order of plain data, read against a course's facts. */
import { within, type WorkInParts, type Instant } from '@zest-bell/core/time';
import { makeCourse, type MessageBudget, nameIn } from '@zest-bell/core/course';
import { HistoryFacts } from '@zest-bell/core/measures';
import type { Condition } from '@zest-bell/core/conditions';
import { withNumbers, type Rule } from '@zest-bell/core/rules';
import {
  limitsEffectInParts,
  replayInParts,
  roundsOf,
  withBudget,
  type CourseLimits,
  type Decision,
  type LimitLog,
} from '@zest-bell/core/rounds';
import {
  byGroup,
  hindsightInParts,
  replayedInParts,
  signsInParts,
  variedReplayInParts,
  type GroupBy,
  type SignsOf,
  type VariedReplay,
} from '@zest-bell/core/outcomes';
import type {
  ComingAnswer,
  HindsightAnswer,
  LimitsEffectAnswer,
  LimitSide,
  PastAnswer,
  ReplayAnswer,
  SignsAnswer,
  VariedHindsight,
} from '@zest-bell/core/exchange';
import { termReportInParts, type TermOrder, type TermReport } from '@zest-bell/core/term';
import { comingInParts, type TurnToCome } from './coming.ts';

/** Tells of a result that is there before the last one. */
export type OnPartialResult = (found: object) => void;

export interface ReplayOf {
  readonly rules: readonly Rule[];
  /** In place of the course's message budget; null for none. */
  readonly budget?: MessageBudget | null | undefined;
  readonly until: Instant;
}

export interface VariationOf extends ReplayOf {
  /** One of `rules`. */
  readonly rule: Rule;
  readonly path: string;
  readonly values: readonly number[];
}

export interface HindsightOf {
  readonly rule: Rule;
  readonly outcome: Condition;
  readonly at: Instant;
  readonly vary: { readonly path: string; readonly values: readonly number[] } | null;
  /** Within each group as well. */
  readonly by?: GroupBy | null | undefined;
}

export interface LimitsChange {
  readonly rules: readonly Rule[];
  readonly limits: CourseLimits;
  readonly logged: LimitLog;
  readonly from: Instant;
  readonly until: Instant;
}

/** Changes by other limits that are listed one by one. */
const MOST_LISTED = 60;

export const WORKS = {
  *replay(facts: HistoryFacts, { rules, budget, until }: ReplayOf): WorkInParts<ReplayAnswer> {
    return { ...(yield* replayedInParts(rules, under(facts, budget), { until })), until };
  },

  /** One number of a rule over several values; each is told as soon as it is known. */
  vary(facts: HistoryFacts, order: VariationOf, tell: OnPartialResult): WorkInParts<VariedReplay[]> {
    const { budget, until, ...varying } = order;
    return variedReplayInParts(varying, under(facts, budget), { until }, (varied) => tell({ varied }));
  },

  *hindsight(facts: HistoryFacts, order: HindsightOf, tell: OnPartialResult): WorkInParts<HindsightAnswer> {
    const { rule, outcome, at, vary, by } = order;
    const values = vary?.values ?? [];
    const share = (i: number): [number, number] => [i / (values.length + 1), (i + 1) / (values.length + 1)];
    const hindsight = yield* within(hindsightInParts(rule, outcome, facts, { at }), ...share(0));
    tell({ hindsight });
    const varied: VariedHindsight[] = [];
    for (const [i, value] of values.entries()) {
      const other = withNumbers(rule, facts.course, new Map([[vary!.path, value]]));
      const seen = yield* within(hindsightInParts(other, outcome, facts, { at }), ...share(i + 1));
      const { counts, shareFound, shareRight, leadDays } = seen;
      varied.push({ value, counts, shareFound, shareRight, lead: leadDays?.median ?? null });
      yield share(i + 1)[1];
    }
    const groups = !by ? null : byGroup(hindsight, facts.course, by, true);
    return { hindsight, varied, groups };
  },

  /** What told early those with an outcome. */
  *signs(facts: HistoryFacts, order: Omit<SignsOf, 'facts' | 'callHere'>): WorkInParts<SignsAnswer> {
    const { at, by } = order;
    return { ...(yield* signsInParts([{ ...order, facts }])), at, by, with: [] };
  },

  coming: (facts: HistoryFacts, order: TurnToCome): WorkInParts<ComingAnswer> => comingInParts(facts, order),

  /** What one rule would have done so far, had it been on since its first day with no other beside it. */
  *past(
    facts: HistoryFacts,
    { rule, until }: { readonly rule: Rule; readonly until: Instant },
  ): WorkInParts<PastAnswer> {
    const rounds = roundsOf([rule], facts, { until });
    const decisions = yield* replayInParts([rule], facts, { until });
    const written = decisions.filter((d) => d.outcome === 'sent' || d.outcome === 'held');
    const byDay = new Map<number, number>();
    for (const d of written) {
      const day = facts.course.calendar.dayNumber(d.round);
      byDay.set(day, (byDay.get(day) ?? 0) + 1);
    }
    return {
      from: rounds[0]?.at ?? until,
      rounds: rounds.length,
      nudges: written.length,
      students: new Set(written.map((d) => d.student)).size,
      busiest: Math.max(0, ...byDay.values()),
    };
  },

  /** What became of a term: the log is told, the hindsight is read here. */
  term: (facts: HistoryFacts, order: TermOrder): WorkInParts<TermReport> => termReportInParts(order, facts),

  /** What other limits would have changed, from the log as it is. */
  *limits(facts: HistoryFacts, { rules, limits, logged, from, until }: LimitsChange): WorkInParts<LimitsEffectAnswer> {
    const { course, history } = facts;
    const changed = new HistoryFacts(makeCourse({ ...course, ...limits }), history);
    const effect = yield* limitsEffectInParts(rules, facts, changed, logged, { from, until });
    const names = new Map(rules.map((r) => [r.id, r.name]));
    return {
      from,
      until,
      before: effect.before,
      after: effect.after,
      changed: effect.changes.length,
      changes: effect.changes
        .slice(0, MOST_LISTED)
        .map((c) => ({
          round: c.round,
          ruleName: names.get(c.rule) ?? c.rule,
          studentName: nameIn(course, c.student),
          before: sideOf(c.before),
          after: sideOf(c.after),
        })),
    };
  },
};

type Works = typeof WORKS;
export type WorkName = keyof Works;
export type OrderOf<Name extends WorkName> = Parameters<Works[Name]>[1];

const under = (facts: HistoryFacts, budget: MessageBudget | null | undefined) =>
  budget === undefined ? facts : withBudget(facts, budget);

const sideOf = (d: Decision | null): LimitSide =>
  d === null
    ? { outcome: 'none', reason: null, sendAt: null }
    : { outcome: d.outcome, reason: d.reason, sendAt: d.sendAt };
