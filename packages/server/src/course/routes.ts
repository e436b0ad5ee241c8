/** The requests about a course itself. */
import type { Door } from '../access/door.ts';
import type { Services } from './services.ts';
import { archiveRoutes } from './archive.ts';
import { senderRoutes } from './sender.ts';

export function serveCourse(door: Door, services: Services): void {
  senderRoutes(door, services);
  archiveRoutes(door, services);
}
