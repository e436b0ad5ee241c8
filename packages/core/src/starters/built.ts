/** A starter as it is offered in a course: its rule, or what the course lacks for it. */
import type { PresenceKnown } from '../activity/presenceKnown.ts';
import { leavesOf } from '../conditions/condition.ts';
import type { Course } from '../course/course.ts';
import { CATALOGUE } from '../measures/catalogue/catalogue.ts';
import type { Instant } from '../time/instant.ts';
import { needs } from './parts.ts';
import type { Starter, StarterRule } from './starter.ts';

/** What a rule lacks that counts visits, or the days between two of them. */
const LACKS: Readonly<Record<Exclude<PresenceKnown, 'visits'>, string>> = {
  lastSeen: 'record of each visit, only of when each student was last seen',
  nothing: 'record of visits yet',
};

/** `presence`: what the course knows of visits. A rule that counts them would find nobody where none are recorded. */
export function builtFor(starter: Starter, course: Course, now: Instant, presence: PresenceKnown): StarterRule {
  const built = starter.build(course, now);
  if (!built.ok || presence === 'visits') return built;
  const counts = leavesOf(built.rule.when).some(({ measure }) => CATALOGUE[measure].countsVisits);
  return counts ? needs(LACKS[presence]) : built;
}
