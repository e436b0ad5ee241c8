/** Rounds over a span of the past or ahead, their decisions fed forward as the log (engine R10). */
import { type WorkInParts, runWhole } from '../../time/inParts.ts';
import { spellsAtEach } from '../../conditions/spells.ts';
import type { Facts } from '../../measures/facts/facts.ts';
import type { Rule } from '../../rules/rule.ts';
import type { Instant } from '../../time/instant.ts';
import { roundInstants } from '../../time/rhythm.ts';
import { decide, type InSpell, type WithheldListener } from '../decide/decide.ts';
import { withdrawn, type Decision, type SentDecision } from '../decide/decision.ts';
import { NudgeLog, type LoggedNudge } from '../decide/log.ts';
import { secondLook } from '../decide/secondLook.ts';

export interface ReplaySpan {
  /** Both included; they bound the round instants. */
  readonly from?: Instant | undefined;
  readonly until?: Instant | undefined;
}

/** Every instant at which one of the rules looks, with the rules that do, in order. */
export function roundsOf(
  rules: readonly Rule[],
  facts: Facts,
  span: ReplaySpan = {},
): { at: Instant; rules: Rule[] }[] {
  const rounds = new Map<Instant, Rule[]>();
  for (const rule of rules) {
    for (const at of roundsIn(rule, facts, span)) {
      const due = rounds.get(at);
      if (due) due.push(rule);
      else rounds.set(at, [rule]);
    }
  }
  return [...rounds].map(([at, due]) => ({ at, rules: due })).sort((a, b) => a.at - b.at);
}

/**
 * What the rules would have decided; second looks fall before a round of the same instant (engine R9). The log starts
 * empty unless one is handed in, which is then written on.
 */
export const replay = (
  rules: readonly Rule[],
  facts: Facts,
  span: ReplaySpan = {},
  log: NudgeLog = new NudgeLog(),
): Decision[] => runWhole(replayInParts(rules, facts, span, log));

/** The same, a part for each round. */
export const replayInParts = (
  rules: readonly Rule[],
  facts: Facts,
  span: ReplaySpan = {},
  log: NudgeLog = new NudgeLog(),
): WorkInParts<Decision[]> => decidedInParts(rules, facts, span, log, inSpells(facts, span));

/**
 * The same without what limits keep back, for anyone who counts nudges. Once a rule's last step was sent as often as a spell
 * allows, no round of that spell can send another: it is left out to its end.
 */
export function nudgesInParts(rules: readonly Rule[], facts: Facts, span: ReplaySpan): WorkInParts<Decision[]> {
  const all = inSpells(facts, span);
  const overUntil = new Map(rules.map((r) => [r, new Float64Array(facts.course.people.length).fill(-Infinity)]));
  const still: InSpell = (rule, t) => {
    const until = overUntil.get(rule)!;
    return all(rule, t).filter(({ person }) => t >= until[person]!);
  };
  return decidedInParts(rules, facts, span, new NudgeLog(), still, (rule, { person, end }, step, reason) => {
    if (reason === 'perSpell' && step === rule.steps.length - 1) overUntil.get(rule)![person] = end;
  });
}

/** Who is in a spell at the rounds of a rule: laid out for all of them when it first rings. */
function inSpells(facts: Facts, span: ReplaySpan): InSpell {
  const laidOut = new Map<Rule, ReturnType<typeof spellsAtEach>>();
  return (rule, t) => {
    let found = laidOut.get(rule);
    if (!found) laidOut.set(rule, (found = spellsAtEach(facts, rule.when, roundsIn(rule, facts, span))));
    return found.get(t) ?? [];
  };
}

const roundsIn = (rule: Rule, { course }: Facts, { from, until }: ReplaySpan): Instant[] =>
  roundInstants(rule.rhythm, course.calendar, from, until);

function* decidedInParts(
  rules: readonly Rule[],
  facts: Facts,
  span: ReplaySpan,
  log: NudgeLog,
  inSpell: InSpell,
  withheld?: WithheldListener,
): WorkInParts<Decision[]> {
  const byId = new Map(rules.map((r) => [r.id, r]));
  const decisions: Decision[] = [];
  /** Decided to leave later, each with its place among the decisions. */
  let waiting: { readonly d: SentDecision; readonly i: number }[] = [];

  const lookAgain = (until: Instant) => {
    const due = waiting.filter(({ d }) => d.sendAt <= until);
    waiting = waiting.filter(({ d }) => d.sendAt > until);
    for (const { d, i } of due.sort((a, b) => a.d.sendAt - b.d.sendAt || a.i - b.i)) {
      const reason = secondLook({ ...d, rule: byId.get(d.rule)! }, facts, d.sendAt, log);
      settle(log, d, reason === null ? 'sent' : 'withdrawn');
      if (reason !== null) decisions[i] = withdrawn(d, reason);
    }
  };

  const rounds = roundsOf(rules, facts, span);
  for (const [i, round] of rounds.entries()) {
    lookAgain(round.at);
    for (const d of decide(round.rules, facts, log, round.at, inSpell, withheld)) {
      decisions.push(d);
      if (d.outcome !== 'sent') continue;
      if (d.sendAt > d.round) waiting.push({ d, i: decisions.length - 1 });
      else settle(log, d, 'sent');
    }
    yield (i + 1) / rounds.length;
  }
  lookAgain(Infinity);
  return decisions;
}

function settle(log: NudgeLog, d: Decision, state: LoggedNudge['state']): void {
  const entry = log.of(d.student).find((n) => n.rule === d.rule && n.round === d.round);
  if (entry) log.replace(entry, { ...entry, state });
}
