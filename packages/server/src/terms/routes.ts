/** The requests over several courses and over a whole term. */
import type { Door } from '../access/door.ts';
import type { IntakeServices } from '../intake/services.ts';
import { carryRoutes } from './carry/routes.ts';
import { everywhereRoutes } from './everywhere/routes.ts';
import { setRoutes } from './sets/routes.ts';
import { shelfRoutes } from './shelf/routes.ts';
import { termRoutes } from './term/routes.ts';

export function serveTerms(door: Door, services: IntakeServices): void {
  carryRoutes(door, services);
  setRoutes(door, services);
  shelfRoutes(door, services);
  everywhereRoutes(door, services);
  termRoutes(door, services);
}
