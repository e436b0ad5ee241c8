/** The coming rounds of a course, in two cases, beside how noisy its weeks have been. */
import {
  decisionsTold,
  isNudge,
  lookAheadInParts,
  noiseOf,
  repeatedFacts,
  roundInstants,
  type AheadCase,
  type ComingAnswer,
  type HistoryFacts,
  type InParts,
  type Instant,
  type LoggedFacts,
  type Rule,
} from '@zest-bell/core';

/** Weeks with which the coming one is compared. */
const PAST_WEEKS = 4;

export interface ComingOrder {
  readonly rules: readonly Rule[];
  readonly logged: LoggedFacts;
  readonly now: Instant;
  readonly until: Instant;
}

/** If nobody does anything more, and if every student's last two weeks repeat. */
export function* comingInParts(facts: HistoryFacts, order: ComingOrder): InParts<ComingAnswer> {
  const { rules, now, until } = order;
  const still = yield* caseOf(order, facts);
  yield;
  const repeated = yield* caseOf(order, repeatedFacts(facts, now, until));
  const count = (of: AheadCase, rule: string) =>
    of.students.reduce((n, s) => n + s.marks.filter((m) => m.rule === rule && isNudge(m)).length, 0);
  const lines = rules.map(({ id, name, rhythm }) => ({
    ...{ id, name, rounds: roundInstants(rhythm, facts.course.calendar, now + 1, until).length },
    ...{ still: count(still, id), repeated: count(repeated, id) },
  }));
  return { from: now, until, still, repeated, rules: lines };
}

function* caseOf({ rules, logged, now, until }: ComingOrder, facts: HistoryFacts): InParts<AheadCase> {
  const { calendar } = facts.course;
  const decisions = yield* lookAheadInParts(rules, facts, logged.nudges, now, until, logged.replies);
  const week = calendar.addDays(now, 7);
  const coming = decisions.filter((d) => isNudge(d) && d.round <= week).map((d) => d.student);
  const past: number[] = [];
  for (let w = 1; w <= PAST_WEEKS; w++) {
    const [from, to] = [calendar.addDays(now, -7 * w), calendar.addDays(now, -7 * (w - 1))];
    if (from < calendar.start) break;
    past.push(logged.nudges.filter((n) => n.round > from && n.round <= to && n.state !== 'withdrawn').length);
  }
  return { ...decisionsTold(decisions, rules, facts, until), noise: noiseOf(coming, past) };
}
