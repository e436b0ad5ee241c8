import type { Value } from '@zest-bell/core/measures';

const counted = new WeakMap<readonly Value[], number>();

/** How many decimals all numbers of a column have: one where any of them has, else none. */
export function decimalsOf(values: readonly Value[]): number {
  const known = counted.get(values);
  if (known !== undefined) return known;
  const some = values.some((v) => typeof v === 'number' && Math.round(v * 10) % 10 !== 0) ? 1 : 0;
  counted.set(values, some);
  return some;
}
