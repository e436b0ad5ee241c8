/** How well a rule finds the students whom one worries about afterwards (engine O4). Limits, status and `spellsFrom` play no part. */
import type { Condition } from '../conditions/condition.ts';
import { sidesOf } from '../conditions/evaluate.ts';
import { storyStart } from '../course/course.ts';
import { daysBetween } from '../measures/catalogue/days.ts';
import type { Facts } from '../measures/facts/facts.ts';
import { inAudience } from '../rounds/decide/decide.ts';
import type { WorkInParts } from '../time/inParts.ts';
import type { Rule } from '../rules/rule.ts';
import type { Instant } from '../time/instant.ts';
import { roundInstants } from '../time/rhythm.ts';
import { contains, placeFrom, type Stretches } from '../time/stretches.ts';
import { wilson, type Proportion } from './proportion.ts';
import { quartilesOf, type Quartiles } from './quartiles.ts';

export interface HindsightSpan {
  /** When the outcome is read. */
  readonly at: Instant;
  /** Both included; they bound the rounds at which a student may be found. `until` is never later than `at`. */
  readonly from?: Instant | undefined;
  readonly until?: Instant | undefined;
}

export interface HindsightStudent {
  readonly student: string;
  readonly outcome: boolean;
  /** The first round that finds them; null for none. */
  readonly found: Instant | null;
  /** Whole calendar days from the find to `at`; null for who is not found. */
  readonly leadDays: number | null;
}

/** `found` with the outcome · `missed` despite the outcome · `needless`: found without it · `leftAlone`. */
export const HINDSIGHT_CELLS = ['found', 'missed', 'needless', 'leftAlone'] as const;
export type HindsightCell = (typeof HINDSIGHT_CELLS)[number];

export interface Hindsight {
  readonly rule: string;
  readonly at: Instant;
  /** The rounds at which somebody may be found: how many, and the first; null for none. */
  readonly rounds: number;
  readonly firstRound: Instant | null;
  /** Students with a known outcome, in roster order. */
  readonly students: readonly HindsightStudent[];
  /** Of how many it is not known. */
  readonly unknown: number;
  readonly counts: Readonly<Record<HindsightCell, number>>;
  /** Found, of those with the outcome; null when there are none. */
  readonly shareFound: Proportion | null;
  /** With the outcome, of those who are found; null when there are none. */
  readonly shareRight: Proportion | null;
  /** Over those who were found and have the outcome; null when there are none. */
  readonly leadDays: Quartiles | null;
}

export const cellOf = ({ outcome, found }: HindsightStudent): HindsightCell =>
  outcome ? (found === null ? 'missed' : 'found') : found === null ? 'leftAlone' : 'needless';

/** Students a part of the computation looks at. */
const A_PART = 200;

export function* hindsightInParts(
  rule: Rule,
  outcome: Condition,
  facts: Facts,
  { at, from, until }: HindsightSpan,
): WorkInParts<Hindsight> {
  const { course } = facts;
  const rounds = roundInstants(rule.rhythm, course.calendar, from, Math.min(until ?? at, at));
  const ofRule = sidesOf(facts, rule.when);
  const ofOutcome = sidesOf(facts, outcome);
  const students: HindsightStudent[] = [];
  let unknown = 0;
  for (const [i, person] of course.people.entries()) {
    if (i % A_PART === A_PART - 1) yield i / course.people.length;
    if (!inAudience(person, rule.audience, course, at)) continue;
    const known = contains(ofOutcome(i, true), at) ? true : contains(ofOutcome(i, false), at) ? false : null;
    if (known === null) {
      unknown++;
      continue;
    }
    const found = firstRoundIn(ofRule(i, true), rounds, storyStart(course, person));
    const leadDays = found === null ? null : daysBetween(course.calendar, found, at);
    students.push({ student: person.id, outcome: known, found, leadDays });
  }
  const looked = { rounds: rounds.length, firstRound: rounds[0] ?? null };
  return { rule: rule.id, at, ...looked, students, unknown, ...summed(students) };
}

function summed(students: readonly HindsightStudent[]) {
  const counts = { found: 0, missed: 0, needless: 0, leftAlone: 0 };
  for (const s of students) counts[cellOf(s)]++;
  const { found, missed, needless } = counts;
  const leads = students.flatMap((s) => (s.outcome && s.leadDays !== null ? [s.leadDays] : []));
  return {
    counts,
    shareFound: found + missed === 0 ? null : wilson(found, found + missed),
    shareRight: found + needless === 0 ? null : wilson(found, found + needless),
    leadDays: quartilesOf(leads.toSorted((a, b) => a - b)),
  };
}

/** The first of the rounds, from `since` on, that lies in one of the stretches. */
function firstRoundIn(yes: Stretches, rounds: readonly Instant[], since: Instant): Instant | null {
  let i = placeFrom(rounds, since);
  for (let s = 0; s < yes.length; s += 2) {
    i = placeFrom(rounds, yes[s]!, i);
    if (i === rounds.length) return null;
    if (rounds[i]! < yes[s + 1]!) return rounds[i]!;
  }
  return null;
}
