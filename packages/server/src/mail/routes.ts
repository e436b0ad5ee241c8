/** The requests about messages and what came of them. */
import type { Door } from '../access/door.ts';
import type { HandsOver } from './outbox/handsOver.ts';
import type { Services } from '../course/services.ts';
import { trayRoutes } from './tray/routes.ts';
import { sendLogRoutes } from './log/routes.ts';

export function serveMail(door: Door, services: Services, dispatcher: HandsOver): void {
  trayRoutes(door, services, dispatcher);
  sendLogRoutes(door, services, dispatcher);
}
