import type { Course } from '../../course/course.ts';
import type { Rule } from '../../rules/rule.ts';
import { difference } from '../../time/duration.ts';
import type { Instant } from '../../time/instant.ts';
import type { LoggedNudge } from './log.ts';

/**
 * The step of a rule that is due for a student at round r (engine R4), or null while none is: the first once its `after`
 * has passed since the spell's start; a later one keeps its distance from the one before even if that came late.
 */
export function stepAt(
  rule: Rule,
  sent: readonly LoggedNudge[],
  spellStart: Instant,
  r: Instant,
  course: Course,
): number | null {
  const { calendar } = course;
  if (sent.length === 0) return r >= calendar.addCourse(spellStart, rule.steps[0]!.after) ? 0 : null;
  let last = 0;
  for (const n of sent) if (n.step > last) last = n.step;
  const k = Math.min(last, rule.steps.length - 1);
  const next = rule.steps[k + 1];
  if (!next) return k;
  let first = Infinity;
  for (const n of sent) if (n.step === k && n.round < first) first = n.round;
  const distance = difference(next.after, rule.steps[k]!.after);
  return r >= calendar.addCourse(spellStart, next.after) && r >= calendar.addCourse(first, distance) ? k + 1 : k;
}
