/** The requests that bring or change what is known of a course. */
import type { Door } from '../access/door.ts';
import type { IntakeServices } from './services.ts';
import { activityRoutes } from './activity/routes.ts';
import { setUpRoutes } from './setUp/setUp.ts';
import { dueDateRoutes } from './setUp/dueDates.ts';
import { fromFileRoutes } from './setUp/fromFile.ts';
import { editRoutes } from './data/edit.ts';
import { importRoutes } from './imports/routes.ts';
import { dataRoutes } from './data/data.ts';

export function serveIntake(door: Door, services: IntakeServices): void {
  activityRoutes(door, services);
  setUpRoutes(door, services);
  fromFileRoutes(door, services);
  dueDateRoutes(door, services);
  editRoutes(door, services);
  importRoutes(door, services);
  dataRoutes(door, services);
}
