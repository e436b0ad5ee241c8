import type { IntakeServices as Intake } from '../intake/services.ts';
import type { OutgoingClient } from '../platform/http/outgoing.ts';
import type { Seal } from '../platform/process/seal.ts';

/** With what other servers are asked by. */
export interface ConnectionServices extends Intake {
  readonly outgoing: OutgoingClient;
  /** Keeps what the other side gave to be kept secret. */
  readonly sealOutside: Seal;
}
