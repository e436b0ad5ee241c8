/** Leases under which something is done: each of its transactions sees first that they are still held. */
import { AsyncLocalStorage } from 'node:async_hooks';
import type { Em } from '../database/orm.ts';

/** A lease by its name and by who holds it. */
export interface LeaseName {
  readonly name: string;
  readonly holder: string;
}

interface HeldLease extends LeaseName {
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
export const whileHeld = <T>(lease: Omit<HeldLease, 'outer'>, work: () => T): T =>
  holding.run({ ...lease, outer: holding.getStore() ?? null }, work);

/** The leases under which something is done, for a thread that does a part of it. */
export function heldLeases(): LeaseName[] {
  const all: LeaseName[] = [];
  for (let held = holding.getStore() ?? null; held; held = held.outer)
    all.push({ name: held.name, holder: held.holder });
  return all;
}

/** Begins what goes on whether or not the lease that it was begun under is still held. */
export const outsideLeases = <T>(work: () => T): T => holding.exit(work);

/** At the begin of a transaction, within it. Throws `LeaseLost`. */
export async function checkLeases(em: Em): Promise<void> {
  for (let held = holding.getStore() ?? null; held; held = held.outer) await held.check(em);
}
