/**
 * What other rules will have decided before one rule has its turn at an instant. "Would be nudged" is the same number everywhere, so
 * every caller counts the rules that come first, in their order (engine R2).
 */
import type { Facts } from '../../measures/facts/facts.ts';
import { tellsOthersOnly, isAlert, type Rule } from '../../rules/rule.ts';
import { roundInstants } from '../../time/rhythm.ts';
import type { Instant } from '../../time/instant.ts';
import { previewComingRounds } from './lookAhead.ts';
import { countingForBudget } from '../decide/limits.ts';
import { NudgeLog, type LimitLog, type LoggedNudge } from '../decide/log.ts';

/** `rules` are those that are on, in their order; one that is not among them comes last. */
export interface RuleTurn {
  readonly rules: readonly Rule[];
  /** The id of the rule that has its turn. */
  readonly rule: string;
  readonly now: Instant;
  readonly at: Instant;
}

/** The rules with rounds until then that can take a student first: empty without a budget, and without rules that write to students. */
export function rulesBefore({ rules, rule, now, at }: RuleTurn, { course }: Facts): Rule[] {
  if (at <= now || !course.settings.budget) return [];
  return rules.filter(
    (r) =>
      r.id !== rule &&
      r.status === 'on' &&
      !tellsOthersOnly(r) &&
      roundInstants(r.rhythm, course.calendar, now + 1, at).length > 0,
  );
}

/** Their nudges in `(now, at]`, without those of rules that have their turn later at `at` itself. `logged` is what they count from. */
export function comingNudges(turn: RuleTurn, facts: Facts, logged: LimitLog): LoggedNudge[] {
  const before = rulesBefore(turn, facts);
  if (before.length === 0) return [];
  const order = new Map(turn.rules.map((r, i) => [r.id, i]));
  const place = order.get(turn.rule) ?? Infinity;
  const rules = new Map(before.map((r) => [r.id, r]));
  return previewComingRounds(before, facts, logged.nudges, turn.now, turn.at, logged.replies).flatMap(
    (d): LoggedNudge[] => {
      if (d.outcome !== 'sent' && d.outcome !== 'held') return [];
      if (d.round === turn.at && order.get(d.rule)! > place) return [];
      const { steps, weight } = rules.get(d.rule)!;
      const toStudent = !isAlert(steps[d.step]!);
      const { rule, student, round, step } = d;
      return [{ rule, student, round, step, state: 'queued', toStudent, weight, coming: true }];
    },
  );
}

/** What used up the message budget for a student at a round: the latest nudge that counts; null if absent. */
export function nudgeInTheWay(
  rule: Pick<Rule, 'id' | 'weight'>,
  student: string,
  facts: Facts,
  log: NudgeLog,
  round: Instant,
): LoggedNudge | null {
  const counted = countingForBudget({ course: facts.course, rule, round, all: log.of(student) });
  return counted.toSorted((a, b) => a.round - b.round).at(-1) ?? null;
}
