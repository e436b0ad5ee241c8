/** The dispatcher with what other concepts do along with mail: one wiring for the server and for its tests. */
import { Dispatcher } from '../mail/outbox/dispatcher.ts';
import { endPauses } from '../mail/pauses/pause.ts';
import type { IntakeServices } from '../intake/services.ts';
import { writeDigests } from '../desk/inbox/digest.ts';

/** What is done before each pass over the mail. Every process does it, so that each may find another one at it. */
export const BEFORE_MAIL: readonly ((services: IntakeServices) => Promise<void>)[] = [endPauses, writeDigests];

export const makeDispatcher = (services: IntakeServices): Dispatcher =>
  new Dispatcher(
    services,
    BEFORE_MAIL.map((work) => () => work(services)),
  );
