import type { MessageBudget } from '../../course/course.ts';
import type { Facts } from '../../measures/facts/facts.ts';

/** The same facts in a course with another message budget, for trying one out. */
export function withBudget(facts: Facts, budget: MessageBudget | null): Facts {
  const course = { ...facts.course, settings: { ...facts.course.settings, budget } };
  return {
    course,
    // Where a condition is true does not depend on the budget.
    sides: facts.sides,
    timelinesOf: (call) => facts.timelinesOf(call),
    timeline: (person, call) => facts.timeline(person, call),
    fact: (person, call, t) => facts.fact(person, call, t),
    version: (person, classWide) => facts.version(person, classWide),
  };
}
