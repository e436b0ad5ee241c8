/** Which past nudges the limits of a round may count, so that only those are read from the log. */
import { sidesOf } from '../../conditions/evaluate.ts';
import type { Facts } from '../../measures/facts/facts.ts';
import type { Rule } from '../../rules/rule.ts';
import { stretchAt } from '../../time/stretches.ts';
import { HOUR, type Instant } from '../../time/instant.ts';
import { WITHHELD_REASONS, type WithheldReason } from './withheld.ts';

/** May name more nudges than will count, and leaves out none that does. */
export interface CountedNudges {
  /** All nudges from here on, of any rule and by hand; Infinity for none. */
  readonly since: Instant;
  /** Older ones of one rule from an instant on: of these students, or of all where null. */
  readonly older: readonly {
    readonly rule: string;
    readonly from: Instant;
    readonly students: readonly string[] | null;
  }[];
}

/** The instant that is so many days before the rounds, with room for a change of clocks. */
type DaysBefore = (days: number, hours?: number) => Instant;

/**
 * From when on a limit counts earlier nudges of its rule, apart from those of the spell that goes on, which are always read, and
 * from the message budget, which counts those of every rule. Null: it counts none.
 */
const COUNTS_SINCE: Readonly<Record<WithheldReason, (rule: Rule, before: DaysBefore) => Instant | null>> = {
  pending: () => null,
  perSpell: () => null,
  perTerm: ({ repeat }) => (repeat.perTerm === null ? null : -Infinity),
  gap: ({ repeat: { gap } }, before) => (gap ? before(gap.days, gap.hours) : null),
  replied: () => null,
  paused: () => null,
  budget: () => null,
  noAddress: () => null,
};

/**
 * What may count at rounds of these rules from an instant on (engine R3 to R7): what is in the message budget, what a gap looks
 * back on, spells that continue, and everything of a rule with a limit for the term. The same for a rule in `changed`, if its earlier
 * versions had another condition.
 */
export function countedFrom(
  rules: readonly Rule[],
  facts: Facts,
  from: Instant,
  changed: ReadonlySet<string> = new Set(),
): CountedNudges {
  const { course } = facts;
  const { calendar } = course;
  const { budget } = course.settings;
  // A day more than is asked for, as the days on which clocks change are not of one length.
  const before: DaysBefore = (days, hours = 0) => calendar.addDays(from, -(days + 1)) - hours * HOUR;
  const since = budget ? before(budget.days) : Infinity;
  const older: CountedNudges['older'][number][] = [];
  for (const rule of rules) {
    const ofLimits = WITHHELD_REASONS.map((reason) => COUNTS_SINCE[reason](rule, before) ?? since);
    const lately = changed.has(rule.id) ? -Infinity : Math.min(since, ...ofLimits);
    if (lately < since) older.push({ rule: rule.id, from: lately, students: null });
    if (lately === -Infinity) continue;
    const sides = sidesOf(facts, rule.when);
    let first = Infinity;
    const students: string[] = [];
    for (const [i, person] of course.people.entries()) {
      const start = stretchAt(sides(i, true), from)?.start ?? Infinity;
      if (start >= lately) continue;
      first = Math.min(first, start);
      students.push(person.id);
    }
    if (students.length > 0) older.push({ rule: rule.id, from: first, students });
  }
  return { since, older };
}

/** What counts by any of them. */
export const countedByAny = (all: readonly CountedNudges[]): CountedNudges => ({
  since: Math.min(...all.map((c) => c.since)),
  older: all.flatMap((c) => c.older),
});
