/** The requests about what rules read. */
import type { Door } from '../access/door.ts';
import type { CourseServices } from '../course/services.ts';
import { columnRoutes } from './columns/routes.ts';

export function serveRules(door: Door, services: CourseServices): void {
  columnRoutes(door, services);
}
