/** Who matches a rule at an instant, read off the stretches that are kept for each student. */
import { sidesOf } from '../../conditions/evaluate.ts';
import type { Facts } from '../../measures/facts/facts.ts';
import type { Rule } from '../../rules/rule.ts';
import type { Instant } from '../../time/instant.ts';
import { contains } from '../../time/stretches.ts';
import { inAudience } from './decide.ts';

/** Roster indexes of the people of the rule's audience who meet its whole condition at t, in order. */
export function matchesAt(rule: Pick<Rule, 'when' | 'audience'>, facts: Facts, t: Instant): number[] {
  const { course } = facts;
  const sides = sidesOf(facts, rule.when);
  const found: number[] = [];
  for (let i = 0; i < course.people.length; i++) {
    if (contains(sides(i, true), t) && inAudience(course.people[i]!, rule.audience, course, t)) found.push(i);
  }
  return found;
}
