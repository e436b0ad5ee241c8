/** Which server processes are alive: a message claimed by a dead one may have left or not, and is for the instructor. */
import { hostname } from 'node:os';
import type { Em } from '../platform/orm.ts';
import { WorkerRow } from './entity.ts';

/** How long a process of another machine may be silent before it is taken for dead, by the machine's own clock. */
const SILENCE = 30_000;

export const makeWorkerId = (): string => `${hostname()}/${process.pid}/${crypto.randomUUID().slice(0, 8)}`;

/** Says that this process lives. As the first statement of a transaction it also takes the write lock. */
export async function heartbeat(em: Em, id: string): Promise<void> {
  const touched = await em.nativeUpdate(WorkerRow, { id }, { aliveAt: Date.now() });
  if (touched === 0) await em.insert(WorkerRow, { id, aliveAt: Date.now() });
}

export async function deadWorkers(em: Em, self: string): Promise<Set<string>> {
  const rows = await em.find(WorkerRow, { id: { $ne: self } }, { disableIdentityMap: true });
  return new Set(rows.filter((r) => isDead(r)).map((r) => r.id));
}

function isDead(row: WorkerRow): boolean {
  if (Date.now() - row.aliveAt > SILENCE) return true;
  const [host, pid] = row.id.split('/');
  if (host !== hostname()) return false;
  try {
    process.kill(Number(pid), 0);
    // A process id may have been given out anew: only silence tells then.
    return Number(pid) === process.pid;
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === 'ESRCH';
  }
}
