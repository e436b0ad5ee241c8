/** What other limits of a course would have changed in rounds of the past: both are replayed from the same log. */
import type { Facts } from '../../measures/facts/facts.ts';
import type { Rule } from '../../rules/rule.ts';
import type { Instant } from '../../time/instant.ts';
import type { Decision } from '../decide/decision.ts';
import { NudgeLog, type LimitLog } from '../decide/log.ts';
import { replayInParts, type ReplaySpan } from './replay.ts';
import { runWhole, type WorkInParts } from '../../time/inParts.ts';

/** How rounds came out: sent at once, sent later for quiet hours, held, and withheld by the budget or another limit. */
export interface RoundTotals {
  readonly sent: number;
  readonly delayed: number;
  readonly held: number;
  readonly overBudget: number;
  readonly otherwiseWithheld: number;
  readonly withdrawn: number;
}

export interface LimitChange {
  readonly rule: string;
  readonly student: string;
  readonly round: Instant;
  /** Null where there would have been no round, or no decision. */
  readonly before: Decision | null;
  readonly after: Decision | null;
}

export interface LimitsEffect {
  readonly before: RoundTotals;
  readonly after: RoundTotals;
  /** Nudges that would have left on one side alone, or at another time. */
  readonly changes: readonly LimitChange[];
}

/** `asIs` and `changed` are the same history under the two courses; `logged` may hold more than what lies before the span. */
export const limitsEffect = (...given: Parameters<typeof limitsEffectInParts>): LimitsEffect =>
  runWhole(limitsEffectInParts(...given));

/** The same, a part for each round. */
export function* limitsEffectInParts(
  rules: readonly Rule[],
  asIs: Facts,
  changed: Facts,
  logged: LimitLog,
  span: Required<ReplaySpan> & { readonly from: Instant },
): WorkInParts<LimitsEffect> {
  const earlier = logged.nudges.filter((n) => n.round < span.from);
  const run = (facts: Facts) => replayInParts(rules, facts, span, new NudgeLog(earlier, logged.replies));
  const before = yield* run(asIs);
  const after = yield* run(changed);
  const keyOf = (d: Decision) => `${d.round} ${d.rule} ${d.student}`;
  const [old, now] = [before, after].map((all) => new Map(all.map((d) => [keyOf(d), d])));
  const changes = [...new Set([...old!.keys(), ...now!.keys()])].flatMap((key): LimitChange[] => {
    const [b, a] = [old!.get(key) ?? null, now!.get(key) ?? null];
    const same = leaves(b) === leaves(a) && (!leaves(a) || b!.sendAt === a!.sendAt);
    const { rule, student, round } = (a ?? b)!;
    return same ? [] : [{ rule, student, round, before: b, after: a }];
  });
  return { before: totals(before), after: totals(after), changes: changes.sort((a, b) => a.round - b.round) };
}

const leaves = (d: Decision | null): boolean => d?.outcome === 'sent' || d?.outcome === 'held';

function totals(decisions: readonly Decision[]): RoundTotals {
  const count = (test: (d: Decision) => boolean) => decisions.filter(test).length;
  return {
    sent: count((d) => d.outcome === 'sent' && d.sendAt === d.round),
    delayed: count((d) => d.outcome === 'sent' && d.sendAt > d.round),
    held: count((d) => d.outcome === 'held'),
    overBudget: count((d) => d.reason === 'budget'),
    otherwiseWithheld: count((d) => d.outcome === 'withheld' && d.reason !== 'budget'),
    withdrawn: count((d) => d.outcome === 'withdrawn'),
  };
}
