/** The dispatcher with what other concepts do along with mail: one wiring for the server and for its tests. */
import { Dispatcher } from './mail/outbox/dispatcher.ts';
import { endPauses } from './mail/pauses/pause.ts';
import type { Services } from './intake/services.ts';
import { writeDigests } from './desk/inbox/digest.ts';

export const makeDispatcher = (services: Services): Dispatcher =>
  new Dispatcher(services, [() => endPauses(services), () => writeDigests(services)]);
