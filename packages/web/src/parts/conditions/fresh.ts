/** The condition that was just chosen and not yet said: it opens in its place until it is closed once. */
import { callKey } from '@zest-bell/core/measures';
import type { Leaf } from '@zest-bell/core/conditions';

/** What it asks, as the condition that is drawn may be another object that says the same. */
let fresh: string | null = null;

const keyOf = ({ is, value, ...call }: Leaf): string => `${callKey(call)} ${is} ${JSON.stringify(value)}`;

export function markFresh(leaf: Leaf): Leaf {
  fresh = keyOf(leaf);
  return leaf;
}
export const isFresh = (leaf: Leaf): boolean => fresh === keyOf(leaf);
export function closeFresh(): void {
  fresh = null;
}
