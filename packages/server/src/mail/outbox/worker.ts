/** Which server processes are alive: a message claimed by a dead one may have left or not, and is for the instructor. */
import { readFileSync, readlinkSync } from 'node:fs';
import { hostname } from 'node:os';
import { databaseMoment, databaseNow } from '../../platform/database/moment.ts';
import type { Em, Tx } from '../../platform/database/orm.ts';
import { run } from '../../platform/database/query.ts';
import { WorkerRow, workerHolds } from './entity.ts';

/** How often a process says that it lives, in ms. */
export const HEARTBEAT = 10_000;
/** After so long a silence, in ms, a process counts as dead, and others may take over its messages. */
export const DEAD_AFTER = 60_000;

/** The workers of this very process. */
const mine = new Set<string>();

export function makeWorkerId(): string {
  const id = `${machine()}/${process.pid}/${crypto.randomUUID().slice(0, 8)}`;
  mine.add(id);
  return id;
}

/**
 * Where numbers of processes mean something: one boot of one machine, and of its containers one, as several may have the same name.
 * Elsewhere than on Linux, the machine's name.
 */
export function machine(): string {
  try {
    const boot = readFileSync('/proc/sys/kernel/random/boot_id', 'utf8').trim();
    return `${hostname()}:${boot.slice(0, 8)}:${/\d+/.exec(readlinkSync('/proc/self/ns/pid'))![0]}`;
  } catch {
    return hostname();
  }
}

/** Says that this process lives. As the first statement of a transaction it also takes SQLite's write lock. */
export async function heartbeat(em: Tx, id: string): Promise<void> {
  const aliveAt = databaseMoment(em);
  const row = em.getKnex()('worker').insert({ id, alive_at: aliveAt });
  await run(em, workerHolds, row.onConflict('id').merge(['alive_at']));
}

/** Workers that lose their messages to others: those that are gone, or have been silent for too long. */
export async function deadWorkers(em: Em): Promise<Set<string>> {
  const rows = await em.find(WorkerRow, {}, { disableIdentityMap: true });
  if (rows.every((r) => mine.has(r.id))) return new Set();
  const now = await databaseNow(em);
  return new Set(rows.filter((r) => isDead(r, now)).map((r) => r.id));
}

/** Of a process on this machine the system knows whether it is gone; else its silence tells, as of one that was stopped. */
function isDead({ id, aliveAt }: WorkerRow, now: number): boolean {
  if (mine.has(id)) return false;
  if (now - aliveAt > DEAD_AFTER) return true;
  const [where, pid] = id.split('/');
  if (where !== machine()) return false;
  try {
    process.kill(Number(pid), 0);
    // An earlier process may have had our own number, as in a container, where every start is number 1.
    return Number(pid) === process.pid;
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === 'ESRCH';
  }
}
