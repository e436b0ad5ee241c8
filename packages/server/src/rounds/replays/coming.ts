/** The coming rounds of a course, in two cases, beside how noisy its weeks have been. */
import { roundInstants, type WorkInParts, type Instant } from '@zest-bell/core/time';
import type { HistoryFacts } from '@zest-bell/core/measures';
import { tellsOthersOnly, type Rule } from '@zest-bell/core/rules';
import { previewComingRoundsInParts, noiseOf, repeatedFacts, type LimitLog } from '@zest-bell/core/rounds';
import { decisionsTold, isNudge, isWrittenTo } from '@zest-bell/core/outcomes';
import type { AheadCase, ComingAnswer } from '@zest-bell/core/exchange';

export interface TurnToCome {
  readonly rules: readonly Rule[];
  readonly logged: LimitLog;
  /** Nudges of each of the weeks before. */
  readonly past: readonly number[];
  readonly now: Instant;
  readonly until: Instant;
}

/** If nobody does anything more, and if every student's last two weeks repeat. */
export function* comingInParts(facts: HistoryFacts, order: TurnToCome): WorkInParts<ComingAnswer> {
  const { rules, now, until } = order;
  const still = yield* caseOf(order, facts);
  yield;
  const repeated = yield* caseOf(order, repeatedFacts(facts, now, until));
  const count = (of: AheadCase, rule: string) =>
    of.students.reduce((n, s) => n + s.marks.filter((m) => m.rule === rule && isNudge(m)).length, 0);
  const lines = rules.map(({ id, name, rhythm, steps }) => ({
    id,
    name,
    rounds: roundInstants(rhythm, facts.course.calendar, now + 1, until).length,
    still: count(still, id),
    repeated: count(repeated, id),
    alerts: tellsOthersOnly({ steps }),
  }));
  return { from: now, until, still, repeated, rules: lines };
}

function* caseOf({ rules, logged, past, now, until }: TurnToCome, facts: HistoryFacts): WorkInParts<AheadCase> {
  const { calendar } = facts.course;
  const decisions = yield* previewComingRoundsInParts(rules, facts, logged.nudges, now, until, logged.replies);
  const week = calendar.addDays(now, 7);
  const told = decisionsTold(decisions, rules, facts, until);
  const coming = told.students.flatMap((s) =>
    s.marks.filter((m) => isWrittenTo(m) && m.round <= week).map(() => s.student),
  );
  return { ...told, noise: noiseOf(coming, past) };
}
