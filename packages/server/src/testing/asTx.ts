import { holdsEverything } from '../platform/database/held.ts';
import type { Em, Holding, Tx } from '../platform/database/orm.ts';

/** A test writes outside of a transaction, and what it likes, as nobody else is there. */
export function asTx(em: unknown): Tx<Holding> {
  holdsEverything(em as Em);
  return em as Tx<Holding>;
}
