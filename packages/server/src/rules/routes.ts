/** The requests about what rules read. */
import type { Door } from '../access/door.ts';
import type { CourseServices } from '../course/services.ts';
import { columnRoutes } from '../course/measures/routes.ts';

export function serveRules(door: Door, services: CourseServices): void {
  columnRoutes(door, services);
}
