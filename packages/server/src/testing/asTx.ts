import type { Em, Tx } from '../platform/database/orm.ts';

/** A test writes outside of a transaction where nobody else is there. */
export const asTx = (em: Em): Tx => em as Tx;
