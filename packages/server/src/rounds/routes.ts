/** The requests about rounds, those that were and those that would be. */
import type { Door } from '../access/door.ts';
import type { MailHandOver } from '../mail/outbox/handsOver.ts';
import type { RoundServices } from './services.ts';
import { sendingRoutes } from './takeBack/routes.ts';
import { replayRoutes } from './replays/routes.ts';
import { limitRoutes } from './courses/limits.ts';
import { mailSwitchRoutes } from './courses/mailSwitch.ts';
import { troubleRoutes } from './courses/retry.ts';

export function serveRounds(door: Door, services: RoundServices, dispatcher: MailHandOver): void {
  sendingRoutes(door, services, dispatcher);
  replayRoutes(door, services);
  limitRoutes(door, services);
  mailSwitchRoutes(door, services, dispatcher);
  troubleRoutes(door, services, dispatcher);
}
