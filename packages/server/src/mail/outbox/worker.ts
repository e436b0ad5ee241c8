/** Which server processes are alive: a message claimed by a dead one may have left or not, and is for the instructor. */
import { hostname } from 'node:os';
import type { Em, Tx } from '../../platform/database/orm.ts';
import { WorkerRow } from './entity.ts';

/** How often a process says that it lives, and how long one of another machine may be silent before it counts as dead. */
export const HEARTBEAT = 10_000;
const SILENCE = 60_000;

/** The workers of this very process. */
const mine = new Set<string>();

export function makeWorkerId(): string {
  const id = `${hostname()}/${process.pid}/${crypto.randomUUID().slice(0, 8)}`;
  mine.add(id);
  return id;
}

/** Says that this process lives. As the first statement of a transaction it also takes the write lock. */
export async function heartbeat(em: Tx, id: string): Promise<void> {
  const touched = await em.nativeUpdate(WorkerRow, { id }, { aliveAt: Date.now() });
  if (touched === 0) await em.insert(WorkerRow, { id, aliveAt: Date.now() });
}

export async function deadWorkers(em: Em): Promise<Set<string>> {
  const rows = await em.find(WorkerRow, {}, { disableIdentityMap: true });
  return new Set(rows.filter((r) => isDead(r)).map((r) => r.id));
}

/** Of a process on this machine the system knows; of another machine's only its silence tells. */
function isDead(row: WorkerRow): boolean {
  if (mine.has(row.id)) return false;
  const [host, pid] = row.id.split('/');
  if (host !== hostname()) return Date.now() - row.aliveAt > SILENCE;
  try {
    process.kill(Number(pid), 0);
    // An earlier process may have had our own number, as in a container, where every start is number 1.
    return Number(pid) === process.pid;
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === 'ESRCH';
  }
}
