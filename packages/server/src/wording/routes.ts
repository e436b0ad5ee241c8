/** The requests about what goes with texts. */
import type { Door } from '../access/door.ts';
import type { CourseServices } from '../course/services.ts';
import { fileRoutes } from './files/routes.ts';

export function serveWording(door: Door, services: CourseServices): void {
  fileRoutes(door, services);
}
