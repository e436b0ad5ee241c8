/** The dispatcher with what other concepts do along with mail: one wiring for the server and for its tests. */
import { Dispatcher } from './mail/outbox/dispatcher.ts';
import { endPauses } from './mail/pauses/pause.ts';
import type { Services } from './intake/services.ts';
import { writeDigests } from './desk/inbox/digest.ts';
import { releasePlainMail, sendPlainMail } from './mail/plainMail/send.ts';
import { forwardReplies, releaseForwards } from './mail/replies/forward.ts';

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
