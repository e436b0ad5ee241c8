/** Counting instants that lie in a window, ever or for a while (engine M4). */
import type { Course } from '../../course/course.ts';
import type { CourseCalendar } from '../../time/calendar.ts';
import type { Instant } from '../../time/instant.ts';
import { dateWordsIn } from '../../time/typedDate.ts';
import { leavesWindow, windowWords, type Window } from '../../time/window.ts';
import { openStretches } from '../values/openStretches.ts';
import type { Numbers } from '../values/timeline.ts';

/** Steps of how many of the instants lie in the window. */
export function countInWindow(
  instants: readonly Instant[],
  window: Window | undefined,
  from: Instant,
  calendar: CourseCalendar,
): Numbers {
  const open = openStretches();
  for (const at of instants) {
    const leaves = leavesWindow(at, window, calendar);
    if (leaves !== null) open.add(at, leaves);
  }
  return open.stepsFrom(from);
}

export const inWindowAt = (at: Instant, window: Window | undefined, t: Instant, calendar: CourseCalendar): boolean => {
  const leaves = leavesWindow(at, window, calendar);
  return at <= t && leaves !== null && t < leaves;
};

/** A window as a sentence says it. */
export const spokenWindow = (window: Window | undefined, course: Course): string =>
  windowWords(window, (date) => dateWordsIn(date, course));
