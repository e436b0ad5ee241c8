/** The dispatcher with what other concepts do along with mail: one wiring for the server and for its tests. */
import { Dispatcher } from './outbox/dispatcher.ts';
import { endPauses } from './pauses/pause.ts';
import type { Services } from './services.ts';
import { forwardReplies, releaseForwards } from './replies/forward.ts';

export const makeDispatcher = (services: Services): Dispatcher =>
  new Dispatcher(services, {
    before: [() => endPauses(services), (worker) => forwardReplies(services, worker)],
    release: [releaseForwards],
  });
