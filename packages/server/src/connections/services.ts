import type { Services as Intake } from '../intake/services.ts';
import type { Outgoing } from '../platform/http/outgoing.ts';
import type { Seal } from '../platform/process/seal.ts';

/** With what other servers are asked by. */
export interface Services extends Intake {
  readonly outgoing: Outgoing;
  /** Keeps what the other side gave to be kept secret. */
  readonly sealOutside: Seal;
}
