/** The dispatcher with what other concepts do along with mail: one wiring for the server and for its tests. */
import { Dispatcher, PATIENCE } from '../mail/outbox/dispatcher.ts';
import { endPauses } from '../mail/pauses/pause.ts';
import type { IntakeServices } from '../intake/services.ts';
import { writeDigests } from '../desk/inbox/digest.ts';

/** What is done before each pass over the mail. Every process does it, so that each may find another one at it. */
export const BEFORE_MAIL: readonly ((services: IntakeServices) => Promise<void>)[] = [endPauses, writeDigests];

/** `patience` is how long a pass waits for the mail server's answers, in ms. */
export const makeDispatcher = (services: IntakeServices, patience = PATIENCE): Dispatcher =>
  new Dispatcher(
    services,
    BEFORE_MAIL.map((work) => () => work(services)),
    patience,
  );
