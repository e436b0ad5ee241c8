/** Counting instants that lie in a window, ever or for a while (engine M4). */
import type { CourseCalendar } from '../time/calendar.ts';
import type { Instant } from '../time/instant.ts';
import { leavesWindow, type Window } from '../time/window.ts';
import { countOpen, type Steps } from './timeline.ts';

/** Steps of how many of the instants lie in the window; they come in order, and the list is taken over. */
export function countInWindow(
  instants: Instant[],
  window: Window | undefined,
  from: Instant,
  calendar: CourseCalendar,
): Steps {
  if (!window) return countOpen(from, instants, []);
  const enters: Instant[] = [];
  const leaves: Instant[] = [];
  for (const at of instants) {
    const until = leavesWindow(at, window, calendar);
    if (until === null) continue;
    enters.push(at);
    leaves.push(until);
  }
  return countOpen(from, enters, leaves);
}

export const inWindowAt = (at: Instant, window: Window | undefined, t: Instant, calendar: CourseCalendar): boolean => {
  const leaves = leavesWindow(at, window, calendar);
  return at <= t && leaves !== null && t < leaves;
};
