/** Leases under which something is done: each of its transactions sees first that they are still held. */
import { AsyncLocalStorage } from 'node:async_hooks';
import type { Em } from '../database/orm.ts';

interface HeldLease {
  /** Throws `LeaseLost`. */
  readonly check: (em: Em) => Promise<void>;
  /** The lease within which this one was taken. */
  readonly outer: HeldLease | null;
}

const holding = new AsyncLocalStorage<HeldLease>();

/** Somebody else does the work by now, or may do it. */
export class LeaseLost extends Error {
  constructor(name: string) {
    super(`the lease “${name}” is lost`);
  }
}

/** Does `work`; its transactions `check` first. */
export const whileHeld = <T>(check: HeldLease['check'], work: () => T): T =>
  holding.run({ check, outer: holding.getStore() ?? null }, work);

/** Begins what goes on whether or not the lease that it was begun under is still held. */
export const outsideLeases = <T>(work: () => T): T => holding.exit(work);

/** At the begin of a transaction, within it. Throws `LeaseLost`. */
export async function checkLeases(em: Em): Promise<void> {
  for (let held = holding.getStore() ?? null; held; held = held.outer) await held.check(em);
}
