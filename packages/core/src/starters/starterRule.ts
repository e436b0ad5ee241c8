/** Builds a starter's rule for a course, or says what the course lacks for it. */
import type { PresenceKnown } from '../activity/presenceKnown.ts';
import { leavesOf } from '../conditions/condition.ts';
import type { Course } from '../course/course.ts';
import { CATALOGUE } from '../measures/catalogue/catalogue.ts';
import type { Instant } from '../time/instant.ts';
import type { Rule } from '../rules/rule.ts';
import { needs } from './parts.ts';
import type { Starter, StarterRule } from './starter.ts';

/** What a course lacks for a rule that counts visits or the days between them. */
const LACKS: Readonly<Record<Exclude<PresenceKnown, 'visits'>, string>> = {
  lastSeen: 'record of each visit, only of when each student was last seen',
  nothing: 'record of visits yet',
};

/** `presence`: how much the course knows about visits. A rule that counts visits finds nobody if none are recorded. */
export function starterRuleFor(starter: Starter, course: Course, now: Instant, presence: PresenceKnown): StarterRule {
  const built = starter.build(course, now);
  const lack = built.ok ? presenceLack(built.rule, presence) : null;
  return lack === null ? built : needs(lack);
}

/** What a course lacks for a rule that counts visits; null for nothing. */
export function presenceLack({ when }: Pick<Rule, 'when'>, presence: PresenceKnown): string | null {
  if (presence === 'visits') return null;
  return leavesOf(when).some(({ measure }) => CATALOGUE[measure].countsVisits) ? LACKS[presence] : null;
}
