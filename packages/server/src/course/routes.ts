/** The requests about a course itself. */
import type { Door } from '../access/door.ts';
import type { CourseServices } from './services.ts';
import { archiveRoutes } from './archive.ts';
import { senderRoutes } from './sender.ts';

export function serveCourse(door: Door, services: CourseServices): void {
  senderRoutes(door, services);
  archiveRoutes(door, services);
}
