/**
 * Students whom a rule finds and does not reach: nobody is to go unnoticed because a limit, an address or a round stood in the
 * way. It reads what each rule would decide now, and says what is in the way and since when.
 */
import { spellsAt, type Spell } from '../../conditions/spells.ts';
import type { Facts } from '../../measures/facts/facts.ts';
import { countsForLimits } from '../../nudges/message.ts';
import { tellsOthersOnly, type Rule, type RuleWeight } from '../../rules/rule.ts';
import type { Instant } from '../../time/instant.ts';
import { roundInstants } from '../../time/rhythm.ts';
import { inAudience, limitCaseOf } from '../decide/decide.ts';
import { countingForBudget, firstLimitRefusing, weighsAtLeast, type LimitCase } from '../decide/limits.ts';
import { type WithheldReason } from '../decide/withheld.ts';
import type { LoggedNudge, NudgeLog } from '../decide/log.ts';
import type { WorkInParts } from '../../time/inParts.ts';

/**
 * Why a student is not reached: no address; mail came back; paused by the student; the message budget; a limit of the rule;
 * their spell began before the rule looked for new ones; its rounds did not run.
 */
export const FALLING_REASONS = [
  'noAddress',
  'bounced',
  'paused',
  'budget',
  'limit',
  'oldSpell',
  'roundsMissed',
] as const;
export type FallingReason = (typeof FALLING_REASONS)[number];

/** For how many days somebody goes unreached before it is worth a line: common practice, no source. */
const DAYS_BEFORE: Readonly<Record<FallingReason, number>> = {
  noAddress: 0,
  bounced: 0,
  roundsMissed: 1,
  oldSpell: 7,
  budget: 7,
  paused: 7,
  limit: 14,
};

/** What a light rule asks for can wait; only who cannot be reached at all is worth a line. */
const ALSO_LIGHT: readonly FallingReason[] = ['noAddress', 'bounced'];

export interface Falling {
  readonly student: string;
  readonly rule: string;
  /** How much the rule weighs. */
  readonly weight: RuleWeight;
  /** The step that is due for them. */
  readonly step: number;
  readonly reason: FallingReason;
  /** Which limit of the rule, for `limit`. */
  readonly limit: WithheldReason | null;
  /** Since when nobody reached them about this: the rule's last nudge in the spell, or the first round in it that was run. */
  readonly since: Instant;
  readonly spellStart: Instant;
  /** The rule's last nudge in this spell; null if there was none. */
  readonly lastNudge: Instant | null;
  /** What used up the budget last, for `budget`. */
  readonly usedBy: LoggedNudge | null;
  /** How many rounds of the rule were run since then; where none was run, how many fell. */
  readonly rounds: number;
}

export interface FallingCase {
  readonly rules: readonly Rule[];
  readonly facts: Facts;
  readonly log: NudgeLog;
  readonly now: Instant;
  /** When mail to a student last proved not to arrive. */
  readonly bounced: ReadonlyMap<string, Instant>;
  /** When each rule's rounds were run, in order: what a rule would have done before is nobody's fault. */
  readonly ran: ReadonlyMap<string, readonly Instant[]>;
  /** Rules with a round that is due and has not run, and since when. */
  readonly overdue: ReadonlyMap<string, Instant>;
}

/** Everybody who falls through a rule that is on, longest first; a part for each rule. */
export function* fallingThrough(given: FallingCase): WorkInParts<Falling[]> {
  const { facts, now } = given;
  const { course } = facts;
  const found: Falling[] = [];
  for (const rule of given.rules) {
    // A rule that only tells others reaches no student anyway.
    if (rule.status !== 'on' || tellsOthersOnly(rule)) continue;
    const ran = given.ran.get(rule.id) ?? [];
    for (const spell of spellsAt(facts, rule.when, now)) {
      const { person: i } = spell;
      if (!inAudience(course.people[i]!, rule.audience, course, now)) continue;
      const way = inTheWay(rule, i, spell, given);
      if (way === null) continue;
      if (rule.weight === 'light' && !ALSO_LIGHT.includes(way.reason)) continue;
      const rounds = way.reason === 'roundsMissed' ? roundInstants(rule.rhythm, course.calendar, way.since, now) : ran;
      const missed = rounds.filter((t) => t >= way.since && t !== way.lastNudge);
      if (missed.length === 0) continue;
      const since = way.reason === 'roundsMissed' || way.lastNudge !== null ? way.since : missed[0]!;
      if (now < course.calendar.addDays(since, DAYS_BEFORE[way.reason])) continue;
      const about = {
        student: course.people[i]!.id,
        rule: rule.id,
        weight: rule.weight,
        spellStart: spell.start,
        rounds: missed.length,
      };
      found.push({ ...about, ...way, since });
    }
    yield;
  }
  return found.sort((a, b) => a.since - b.since);
}

type FallingWay = Pick<Falling, 'step' | 'reason' | 'limit' | 'since' | 'lastNudge' | 'usedBy'>;

/** What keeps the student from being reached by the rule now; null when nothing does, or it is only a matter of hours. */
function inTheWay(rule: Rule, i: number, spell: Spell, given: FallingCase): FallingWay | null {
  const { facts, log, now, bounced, overdue } = given;
  const student = facts.course.people[i]!;
  let step = 0;
  const way = (reason: FallingReason, since: Instant, more: Partial<FallingWay> = {}): FallingWay => ({
    step,
    reason,
    since,
    limit: null,
    lastNudge: null,
    usedBy: null,
    ...more,
  });
  if (rule.spellsFrom !== null && spell.start < rule.spellsFrom) return way('oldSpell', spell.start);
  const limits = limitCaseOf(rule, i, spell, facts, log, now);
  if (limits === null) return null;
  step = limits.step;
  if (bounced.has(student.id)) return way('bounced', spell.start);
  const lastNudge = lastOf(limits.sent);
  const since = lastNudge ?? spell.start;
  const reason = firstLimitRefusing(limits);
  switch (reason) {
    // On its way or waiting for the instructor; written to lately; answered: none of them is forgotten.
    case 'pending':
    case 'gap':
    case 'replied':
      return null;
    case 'noAddress':
    case 'paused':
      return way(reason, since, { lastNudge });
    case 'budget':
      return way('budget', since, { lastNudge, usedBy: countingForBudget(limits).at(-1) ?? null });
    case 'perSpell':
    case 'perTerm':
      // Another message that weighs as much has reached them in the meantime, so somebody has asked.
      if (reachedLately(limits, DAYS_BEFORE.limit)) return null;
      // A later step is still to come.
      if (reason === 'perSpell' && limits.step < rule.steps.length - 1) return null;
      return way('limit', since, { lastNudge, limit: reason });
    case null: {
      const due = overdue.get(rule.id);
      return due === undefined ? null : way('roundsMissed', Math.max(since, due), { lastNudge });
    }
  }
}

/** Whether any nudge that weighs at least as much as the rule was written to the student within the last `days`. */
const reachedLately = (c: LimitCase, days: number): boolean =>
  c.all.some(
    (n) =>
      n.toStudent &&
      countsForLimits(n.state) &&
      weighsAtLeast(n, c.rule) &&
      c.round < c.course.calendar.addDays(n.round, days),
  );

function lastOf(nudges: readonly LoggedNudge[]): Instant | null {
  const rounds = nudges.filter((n) => countsForLimits(n.state)).map((n) => n.round);
  return rounds.length === 0 ? null : Math.max(...rounds);
}
