/** The dispatcher with what other concepts do along with mail: one wiring for the server and for its tests. */
import { Dispatcher } from './outbox/dispatcher.ts';
import { endPauses } from './pauses/pause.ts';
import type { Services } from './services.ts';
import { writeDigests } from './places/inbox/digest.ts';
import { releasePlainMail, sendPlainMail } from './plainMail/send.ts';
import { forwardReplies, releaseForwards } from './replies/forward.ts';

export const makeDispatcher = (services: Services): Dispatcher =>
  new Dispatcher(services, {
    before: [
      () => endPauses(services),
      () => writeDigests(services),
      (worker) => forwardReplies(services, worker),
      (worker) => sendPlainMail(services, worker),
    ],
    release: [releaseForwards, releasePlainMail],
  });
