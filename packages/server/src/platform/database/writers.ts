/**
 * A thread of this process that has SQLite's write lock for longer. Other writes of the process wait for its message: each try at a
 * locked database would block the whole process for 40 ms.
 */
import { AppError } from '../errors/errors.ts';
import type { Orm } from './orm.ts';

/** How long a write waits, in ms, unless told otherwise. */
const PATIENCE = 15_000;

const held = new WeakMap<object, Promise<void>>();

/** From now on writes to this database wait, until the function that it gives is called. One at a time. */
export function holdBackWrites(orm: Orm): () => void {
  let open = () => undefined as void;
  const opened = new Promise<void>((resolve) => (open = resolve));
  held.set(orm, opened);
  return () => {
    held.delete(orm);
    open();
  };
}

/** Ends once nobody holds writes back. Throws `busy`. */
export async function mayWrite(orm: Orm, patience = PATIENCE): Promise<void> {
  const opened = held.get(orm);
  if (opened === undefined) return;
  let late: NodeJS.Timeout | undefined;
  const tooLate = new Promise<never>((_, fail) => {
    late = setTimeout(() => fail(new AppError('busy')), patience);
  });
  await Promise.race([opened, tooLate]).finally(() => clearTimeout(late));
}
