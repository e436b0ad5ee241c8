/** Counting instants that lie in a window, ever or for a while (engine M4). */
import type { CourseCalendar } from '../time/calendar.ts';
import type { Instant } from '../time/instant.ts';
import { leavesWindow, type Window } from '../time/window.ts';
import { countSteps, type Steps } from './timeline.ts';

export function countInWindow(
  instants: Iterable<Instant>,
  window: Window | undefined,
  from: Instant,
  calendar: CourseCalendar,
): Steps {
  const changes: [number, number][] = [];
  for (const at of instants) {
    const leaves = leavesWindow(at, window, calendar);
    if (leaves !== null) changes.push([at, 1], [leaves, -1]);
  }
  return countSteps(from, changes);
}

export const inWindowAt = (at: Instant, window: Window | undefined, t: Instant, calendar: CourseCalendar): boolean => {
  const leaves = leavesWindow(at, window, calendar);
  return at <= t && leaves !== null && t < leaves;
};
