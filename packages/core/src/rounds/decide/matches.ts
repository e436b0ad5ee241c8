/** Who matches a rule at an instant, read off the stretches that are kept for each student. */
import { spellsAt, type PersonSpell } from '../../conditions/spells.ts';
import type { Course } from '../../course/course.ts';
import type { Facts } from '../../measures/facts/facts.ts';
import type { Rule } from '../../rules/rule.ts';
import type { Instant } from '../../time/instant.ts';
import { inAudience } from './decide.ts';

/** Roster indexes of the people of the rule's audience who meet its whole condition at t, in order. */
export const matchesAt = (rule: Pick<Rule, 'when' | 'audience'>, facts: Facts, t: Instant): number[] =>
  matchesAmong(spellsAt(facts, rule.when, t), rule, facts.course, t);

/** The same, of those who are in a spell of its condition at t. */
export const matchesAmong = (
  spells: readonly PersonSpell[],
  { audience }: Pick<Rule, 'audience'>,
  course: Course,
  t: Instant,
): number[] =>
  spells.flatMap(({ person }) => (inAudience(course.people[person]!, audience, course, t) ? [person] : []));
