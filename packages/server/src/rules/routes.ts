/** The requests about what rules read. */
import type { Door } from '../access/door.ts';
import type { Services } from '../course/services.ts';
import { columnRoutes } from './columns/routes.ts';

export function serveRules(door: Door, services: Services): void {
  columnRoutes(door, services);
}
