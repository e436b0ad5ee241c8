/** Tests read and write rows as no process may: without holding what the rows belong to. */
import type { AnyEm, AnyOrm, Em, Orm } from '../platform/database/orm.ts';

export const unguarded = (orm: Orm): AnyEm => (orm as unknown as AnyOrm).em.fork();

/** The same within a transaction. */
export const freely = (tx: Em): AnyEm => tx as unknown as AnyEm;
