/** A scenario replayed or rehearsed, and its decisions as `zest-bell/decisions@1` (engine §6). */
import { History } from '../activity/history.ts';
import type { LeafEvidence } from '../conditions/evidence.ts';
import type { Condition } from '../conditions/condition.ts';
import { HistoryFacts, type Facts } from '../measures/facts/facts.ts';
import { byGroup, type GroupBy } from '../outcomes/byGroup.ts';
import { hindsightInParts, type HindsightSpan } from '../outcomes/hindsight.ts';
import type { Proportion } from '../outcomes/proportion.ts';
import { signsInParts } from '../outcomes/signs/signs.ts';
import { ruleOutcomes } from '../outcomes/timeToReturn.ts';
import { decide } from '../rounds/decide/decide.ts';
import { evidenceOf, type Decision } from '../rounds/decide/decision.ts';
import { NudgeLog } from '../rounds/decide/log.ts';
import { replay, type ReplaySpan } from '../rounds/whatIf/replay.ts';
import { runWhole } from '../time/inParts.ts';
import type { Rule } from '../rules/rule.ts';
import { formatInstant, type Instant } from '../time/instant.ts';
import type { Scenario } from './format.ts';

export interface DecisionsFile {
  readonly format: 'zest-bell/decisions@1';
  readonly decisions: readonly WrittenDecision[];
}

export interface WrittenDecision {
  readonly rule: string;
  readonly student: string;
  readonly round: string;
  readonly outcome: Decision['outcome'];
  readonly reason: string | null;
  readonly step: number;
  readonly sendAt: string | null;
  readonly spellStart: string;
  readonly to: readonly string[];
  readonly evidence: readonly object[];
}

/** Facts over a scenario's history. `horizon`: how far ahead days are counted, if beyond the course's end. */
function scenarioFacts(scenario: Scenario, horizon?: Instant): HistoryFacts {
  const history = new History(scenario.course);
  for (const e of scenario.events) history.addEvent(e);
  for (const g of scenario.grades) history.addGrade(g);
  return new HistoryFacts(scenario.course, history, horizon);
}

/** The rules that are on, or only those named, which are replayed as if they were. Null for an id that is not there. */
export function chosenRules(
  scenario: Scenario,
  ids: readonly string[],
): readonly Rule[] | { readonly unknown: string } {
  if (ids.length === 0) return scenario.rules.filter((r) => r.status === 'on');
  const unknown = ids.find((id) => !scenario.rules.some((r) => r.id === id));
  if (unknown !== undefined) return { unknown };
  return scenario.rules.filter((r) => ids.includes(r.id)).map((r): Rule => ({ ...r, status: 'on' }));
}

export function replayScenario(scenario: Scenario, rules: readonly Rule[], span: ReplaySpan = {}): DecisionsFile {
  const facts = scenarioFacts(scenario);
  return written(replay(rules, facts, span), rules, facts);
}

/** One round with an empty log and no second looks. */
export function rehearseScenario(scenario: Scenario, rules: readonly Rule[], at: Instant): DecisionsFile {
  const facts = scenarioFacts(scenario);
  return written(decide(rules, facts, new NudgeLog(), at), rules, facts);
}

/** How well a rule finds those with an outcome, as `zest-bell/hindsight@1` (engine O4); within each group as well (engine S8). */
export function hindsightScenario(
  scenario: Scenario,
  rule: Rule,
  outcome: Condition,
  span: HindsightSpan & { readonly by?: GroupBy | undefined },
): object {
  const instant = (t: Instant) => formatInstant(t, scenario.course.timeZone);
  const found = runWhole(hindsightInParts(rule, outcome, scenarioFacts(scenario), span));
  const { leadDays } = found;
  return {
    format: 'zest-bell/hindsight@1',
    rule: found.rule,
    at: instant(found.at),
    population: found.students.length,
    unknown: found.unknown,
    counts: found.counts,
    shareFound: writtenShare(found.shareFound),
    shareRight: writtenShare(found.shareRight),
    leadDays: leadDays && { q1: leadDays.q1, median: leadDays.median, q3: leadDays.q3 },
    students: found.students.map((s) => ({ ...s, found: s.found === null ? null : instant(s.found) })),
    ...(span.by && writtenGroups(byGroup(found, scenario.course, span.by))),
  };
}

const writtenGroups = ({ groups, differ }: ReturnType<typeof byGroup>) => ({
  groups: groups.map(({ group, counts, shareFound, shareNeedless }) => ({
    group,
    counts,
    shareFound: writtenShare(shareFound),
    shareNeedless: writtenShare(shareNeedless),
  })),
  differ: differ.map(({ between, share }) => ({ groups: between.map((n) => groups[n]!.group), share })),
});

/** What told early of those with an outcome, as `zest-bell/signs@1` (engine S1 to S7). */
export function signsScenario(
  scenario: Scenario,
  outcome: Condition,
  { at, by }: { readonly at: Instant; readonly by: Instant },
): object {
  const instant = (t: Instant) => formatInstant(t, scenario.course.timeZone);
  const { weekly: _weekly, ...told } = runWhole(
    signsInParts([{ facts: scenarioFacts(scenario, at), outcome, at, by }]),
  );
  return { format: 'zest-bell/signs@1', at: instant(at), by: instant(by), ...told };
}

const writtenShare = (share: Proportion | null) =>
  share && { value: share.count / share.of, low: share.low, high: share.high };

/** What came of a replay's nudges, as `zest-bell/outcomes@1` (engine O1 to O3); as of the course's end unless told otherwise. */
export function outcomesScenario(scenario: Scenario, rules: readonly Rule[], asOf?: Instant): object {
  const facts = scenarioFacts(scenario);
  const outcomes = ruleOutcomes(rules, facts, replay(rules, facts), asOf ?? scenario.course.calendar.end);
  return {
    format: 'zest-bell/outcomes@1',
    rules: outcomes.map(({ rule, nudges, returned, open, curve, comparison }) => ({
      rule,
      nudges,
      returned,
      open,
      curve,
      comparison: { spells: comparison.spells, curve: comparison.curve },
    })),
  };
}

function written(decisions: readonly Decision[], rules: readonly Rule[], facts: Facts): DecisionsFile {
  const instant = (t: Instant) => formatInstant(t, facts.course.timeZone);
  const byId = new Map(rules.map((r) => [r.id, r]));
  return {
    format: 'zest-bell/decisions@1',
    decisions: decisions.map((d) => ({
      rule: d.rule,
      student: d.student,
      round: instant(d.round),
      outcome: d.outcome,
      reason: d.reason,
      step: d.step,
      sendAt: d.sendAt === null ? null : instant(d.sendAt),
      spellStart: instant(d.spellStart),
      to: d.to.map((r) => r.address),
      evidence: evidenceOf(d.student, byId.get(d.rule)!, facts, d.round).map(writtenEvidence),
    })),
  };
}

/** A leaf's evidence without the fact behind it, as its instants have no fixed form in the file. */
function writtenEvidence({ fact: _fact, ...leaf }: LeafEvidence): object {
  return leaf;
}
