import { useOutletContext } from 'react-router';
import type { Instant } from '@zest-bell/core/time';
import type { Capability } from '@zest-bell/core/access';
import { nameIn } from '@zest-bell/core/course';
import type { CourseView } from './queries.ts';

export interface CourseHere extends CourseView {
  readonly now: Instant;
  readonly demo: boolean;
  /** Whether who is signed in may do something here: what they may not is not shown. */
  readonly may: (capability: Capability) => boolean;
}

/** The course and the moment that every place is about. */
export const useHere = (): CourseHere => useOutletContext<CourseHere>();

/** Where one student is shown. */
export const studentPath = (here: CourseView, student: string): string =>
  `/c/${here.id}/students/${encodeURIComponent(student)}`;

/** A person's name by their id; the id itself for somebody who left the roster. */
export function nameOf(here: CourseView, person: string): string {
  return nameIn(here.course, person);
}
