/** The requests of the pages of a course, and of this installation. */
import type { Door } from '../access/door.ts';
import type { MailHandOver } from '../mail/outbox/handsOver.ts';
import type { IntakeServices } from '../intake/services.ts';
import { inboxRoutes, replyRoutes } from './inbox/routes.ts';
import { accessRoutes, adminRoutes } from './people/routes.ts';
import { countRoutes } from './counts/routes.ts';
import { courseRoutes } from './courses/routes.ts';
import { lookoutRoutes } from './lookout/routes.ts';
import { todayRoutes } from './today/routes.ts';
import { backRoutes } from './today/back.ts';
import { fallingRoutes } from './today/falling.ts';
import { mailingRoutes } from './writing/routes.ts';
import { exportRoutes } from './exports/routes.ts';
import { studentRoutes } from './students/routes.ts';
import { factRoutes } from './students/facts.ts';
import { tryingRoutes } from './rules/trying.ts';
import { ruleRoutes } from './rules/routes.ts';
import { ruleHistoryRoutes } from './rules/history.ts';
import { wordingRoutes } from './wordings/routes.ts';

export function serveDesk(door: Door, services: IntakeServices, dispatcher: MailHandOver): void {
  inboxRoutes(door, services);
  courseRoutes(door, services);
  accessRoutes(door, services);
  countRoutes(door, services);
  adminRoutes(door, services);
  lookoutRoutes(door, services);
  todayRoutes(door, services);
  backRoutes(door, services);
  replyRoutes(door, services, dispatcher);
  fallingRoutes(door, services, dispatcher);
  mailingRoutes(door, services, dispatcher);
  studentRoutes(door, services);
  factRoutes(door, services);
  tryingRoutes(door, services, dispatcher);
  ruleRoutes(door, services);
  ruleHistoryRoutes(door, services);
  wordingRoutes(door, services);
  exportRoutes(door, services);
}
