import type { Services as Platform } from '../platform/services.ts';
import type { LiveCourses } from './activity/live.ts';

/** With the courses that lie in memory. */
export interface Services extends Platform {
  readonly live: LiveCourses;
}
