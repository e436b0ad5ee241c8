import type { PlatformServices as Platform } from '../platform/services.ts';
import type { LiveCourses } from './activity/live.ts';

/** With the courses that lie in memory. */
export interface CourseServices extends Platform {
  readonly live: LiveCourses;
}
