/** Which courses and accounts a transaction holds. */
import type { Holds } from './holds.ts';
import type { Em } from './orm.ts';

interface HeldRows {
  readonly course: Set<number>;
  readonly account: Set<number>;
}

const held = new WeakMap<Em, HeldRows>();
const unchecked = new WeakSet<Em>();

/** For tests, which write what no process would. */
export const holdsEverything = (tx: Em): void => void unchecked.add(tx);

/** From now on this transaction holds it. Only what locks a row calls this. */
export function nowHolds(tx: Em, what: keyof HeldRows, id: number): void {
  const mine = held.get(tx) ?? { course: new Set(), account: new Set() };
  mine[what].add(id);
  held.set(tx, mine);
}

/**
 * Throws where a row, or the rows of a condition, belong to a course or an account that the transaction does not hold. What a condition does not
 * name is not checked.
 */
export function mustHold(tx: Em, table: Holds, of: unknown): void {
  const { owner, course, entity } = table;
  if (unchecked.has(tx)) return;
  if (owner.includes('process') || owner.includes('claim') || owner.includes('installation')) return;
  const mine = held.get(tx);
  const row = of as Readonly<Record<string, unknown>> | null;
  const isHeld = (what: keyof HeldRows, column: string | null): boolean => {
    const id = column === null ? undefined : row?.[column];
    return typeof id !== 'number' || (mine?.[what].has(id) ?? false);
  };
  const byCourse = owner.includes('course') && isHeld('course', typeof course === 'string' ? course : null);
  const byAccount = owner.includes('account') && isHeld('account', table.account);
  if (!byCourse && !byAccount)
    throw new Error(`A row of ${entity.meta.className} is written without holding what it belongs to`);
}
