import type { IntakeServices as Intake } from '../intake/services.ts';
import type { OutgoingClient } from '../platform/http/outgoing.ts';
import type { Seal } from '../platform/process/seal.ts';

/** What connections need: the services of intake, a client for outgoing requests, and a seal for secrets. */
export interface ConnectionServices extends Intake {
  readonly outgoing: OutgoingClient;
  /** Seals secrets that another server gave us. */
  readonly sealOutside: Seal;
}
