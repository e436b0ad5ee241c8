/**
 * Shares of small numbers, told with how little they say: Wilson's score interval, and Newcombe's interval for the difference
 * of two shares made of it. Source: R. G. Newcombe, Statistics in Medicine 17 (1998), 857–872 (method 3) and 873–890
 * (method 10).
 */
export interface Proportion {
  readonly count: number;
  readonly of: number;
  /** Bounds of the share, 0 to 1; with nothing counted, all of it. */
  readonly low: number;
  readonly high: number;
}

/** The standard normal quantile of a two-sided 95%. */
export const Z95 = 1.959963984540054;

/** Throws a RangeError unless 0 ≤ count ≤ of. */
export function wilson(count: number, total: number, z = Z95): Proportion {
  if (count < 0 || count > total) throw new RangeError(`${count} of ${total}`);
  if (total === 0) return { count, of: total, low: 0, high: 1 };
  const p = count / total;
  const middle = p + (z * z) / (2 * total);
  const spread = z * Math.sqrt((p * (1 - p)) / total + (z * z) / (4 * total * total));
  const scale = 1 + (z * z) / total;
  return {
    count,
    of: total,
    low: count === 0 ? 0 : Math.max(0, (middle - spread) / scale),
    high: count === total ? 1 : Math.min(1, (middle + spread) / scale),
  };
}

/** The interval of a − b, as shares; both must have something counted. */
export function differenceOf(a: Proportion, b: Proportion, z = Z95): { readonly low: number; readonly high: number } {
  const [pa, pb] = [a.count / a.of, b.count / b.of];
  const [ia, ib] = [wilson(a.count, a.of, z), wilson(b.count, b.of, z)];
  const d = pa - pb;
  return { low: d - Math.hypot(pa - ia.low, ib.high - pb), high: d + Math.hypot(ia.high - pa, pb - ib.low) };
}
