/** Conditions that were just chosen and not yet said: each opens where it stands until it is closed once. */
import type { Leaf } from '@zest-bell/core';

const fresh = new WeakSet<Leaf>();

export const markFresh = (leaf: Leaf): Leaf => {
  fresh.add(leaf);
  return leaf;
};
export const isFresh = (leaf: Leaf): boolean => fresh.has(leaf);
export const isSaid = (leaf: Leaf): boolean => fresh.delete(leaf);
