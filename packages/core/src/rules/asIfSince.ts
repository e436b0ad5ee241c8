/** A rule as if it had been on from an earlier day: what replays tell of a rule that begins later than the term. */
import type { CourseFile } from '../course/course.ts';
import type { Rule } from './rule.ts';

/** Its rounds begin on that day, at the earliest on the course's first, and not later than they do. The time of day stays. */
export function asIfSince(rule: Rule, day: string, course: Pick<CourseFile, 'start'>): Rule {
  const [own, time] = rule.rhythm.start.split('T') as [string, string];
  const from = day > course.start ? day : course.start;
  return from >= own ? rule : { ...rule, rhythm: { ...rule.rhythm, start: `${from}T${time}` } };
}

/** Whether a rule begins later than its course, so that a replay of it alone would say less than it could. */
export const beginsLate = (rule: Rule, course: Pick<CourseFile, 'start'>): boolean =>
  rule.rhythm.start.slice(0, 10) > course.start;
