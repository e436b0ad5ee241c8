import type { PlatformServices as Platform } from '../platform/services.ts';
import type { LiveCourses } from './activity/live.ts';

/** Services of the platform, and the courses in memory. */
export interface CourseServices extends Platform {
  readonly live: LiveCourses;
}
