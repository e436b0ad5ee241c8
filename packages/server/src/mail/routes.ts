/** The requests about messages and what came of them. */
import type { Door } from '../access/door.ts';
import type { MailHandOver } from './outbox/handsOver.ts';
import type { CourseServices } from '../course/services.ts';
import { trayRoutes } from './tray/routes.ts';
import { sendLogRoutes } from './log/routes.ts';

export function serveMail(door: Door, services: CourseServices, dispatcher: MailHandOver): void {
  trayRoutes(door, services, dispatcher);
  sendLogRoutes(door, services, dispatcher);
}
