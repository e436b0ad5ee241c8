/** Who matches a rule, since when, and why, as the table of students shows it in a column a rule. */
import { z } from 'zod';
import { evidenceAt } from '../conditions/evidence.ts';
import { evidenceWords } from '../conditions/evidenceWords.ts';
import { spellAt } from '../conditions/spells.ts';
import type { Facts } from '../measures/facts/facts.ts';
import type { Value } from '../measures/values/value.ts';
import { matchesAt } from '../rounds/decide/matches.ts';
import type { Rule } from '../rules/rule.ts';
import type { CourseCalendar } from '../time/calendar.ts';
import type { Instant } from '../time/instant.ts';

export interface RuleMatch {
  /** When the condition became true without a break until the instant asked about. */
  readonly since: Instant;
  /** What the condition read there, in words. */
  readonly evidence: string;
}

/** By id of the student; anyone who does not match is not in it. */
export type RuleMatches = Readonly<Record<string, RuleMatch>>;

/** The active students of a rule's audience who meet its condition at t. What was sent plays no part. */
export function ruleMatches(rule: Pick<Rule, 'when' | 'audience'>, facts: Facts, t: Instant): RuleMatches {
  const { people, timeZone } = facts.course;
  const found: Record<string, RuleMatch> = {};
  for (const person of matchesAt(rule, facts, t)) {
    const spell = spellAt(facts, person, rule.when, t);
    if (!spell) continue;
    const evidence = evidenceWords(evidenceAt(facts, person, rule.when, t), timeZone);
    found[people[person]!.id] = { since: spell.start, evidence };
  }
  return found;
}

/** Whole calendar days for which somebody has matched; null for anyone who does not. */
export const daysMatched = (match: RuleMatch | undefined, at: Instant, calendar: CourseCalendar): Value =>
  match === undefined ? null : calendar.dayNumber(at) - calendar.dayNumber(match.since);

/** What the table asks of a rule: that a student matches it, for so many days at least and at most, or does not. */
export const ruleBrushSchema = z.strictObject({
  rule: z.string().min(1).max(100),
  brush: z.discriminatedUnion('kind', [
    z.strictObject({ kind: z.literal('range'), low: z.number().nullable(), high: z.number().nullable() }),
    z.strictObject({ kind: z.literal('unknown') }),
  ]),
});
export type RuleBrush = z.infer<typeof ruleBrushSchema>;

/** A range without bounds: anyone who matches, however long. */
export const MATCHING = { kind: 'range', low: null, high: null } as const;
/** Nothing is known of anyone who does not match. */
export const NOT_MATCHING = { kind: 'unknown' } as const;

/** What a brush on a rule asks, after “students who”. */
export function ruleBrushWords(brush: RuleBrush['brush']): { readonly lead: string; readonly after: string } {
  if (brush.kind === 'unknown') return { lead: 'do not match', after: '' };
  const { low, high } = brush;
  const days = (n: number) => `${n} ${n === 1 ? 'day' : 'days'}`;
  const least = low === null || low === 0 ? null : low;
  if (least === null && high === null) return { lead: 'match', after: '' };
  if (least === null) return { lead: 'match', after: `for ${days(high!)} or less` };
  if (high === null) return { lead: 'match', after: `for ${days(least)} or more` };
  return { lead: 'match', after: least === high ? `for ${days(least)}` : `for ${least} to ${days(high)}` };
}
