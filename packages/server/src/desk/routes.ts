/** The requests that read or act across the other modules. */
import type { Door } from '../access/door.ts';
import type { MailHandOver } from '../mail/outbox/handsOver.ts';
import type { IntakeServices } from '../intake/services.ts';
import { carryRoutes } from './carry/routes.ts';
import { inboxRoutes, replyRoutes } from './inbox/routes.ts';
import { accessRoutes, adminRoutes } from './people/routes.ts';
import { countRoutes } from './counts/routes.ts';
import { erasureRoutes } from './erasure/routes.ts';
import { courseRoutes } from './courses/routes.ts';
import { lookoutRoutes } from './lookout/routes.ts';
import { todayRoutes } from './today/routes.ts';
import { fallingRoutes } from './today/falling.ts';
import { mailingRoutes } from './writing/routes.ts';
import { everywhereRoutes } from './everywhere/routes.ts';
import { exportRoutes } from './exports/routes.ts';
import { setRoutes } from './sets/routes.ts';
import { studentRoutes } from './students/routes.ts';
import { factRoutes } from './students/facts.ts';
import { termRoutes } from './term/routes.ts';
import { tryingRoutes } from './rules/trying.ts';
import { ruleRoutes } from './rules/routes.ts';
import { ruleHistoryRoutes } from './rules/history.ts';
import { wordingRoutes } from './wordings/routes.ts';

export function serveDesk(door: Door, services: IntakeServices, dispatcher: MailHandOver): void {
  inboxRoutes(door, services);
  courseRoutes(door, services);
  accessRoutes(door, services);
  erasureRoutes(door, services);
  countRoutes(door, services);
  adminRoutes(door, services);
  lookoutRoutes(door, services);
  todayRoutes(door, services);
  replyRoutes(door, services, dispatcher);
  fallingRoutes(door, services, dispatcher);
  mailingRoutes(door, services, dispatcher);
  studentRoutes(door, services);
  factRoutes(door, services);
  tryingRoutes(door, services, dispatcher);
  ruleRoutes(door, services);
  ruleHistoryRoutes(door, services);
  wordingRoutes(door, services);
  carryRoutes(door, services);
  setRoutes(door, services);
  exportRoutes(door, services);
  everywhereRoutes(door, services);
  termRoutes(door, services);
}
