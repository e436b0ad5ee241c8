/** Minimum, quartiles and maximum of numbers, by linear interpolation. Source: Hyndman and Fan (1996), type 7. */
export interface Quartiles {
  readonly low: number;
  readonly q1: number;
  readonly median: number;
  readonly q3: number;
  readonly high: number;
}

/** The quantile at `p` in 0 … 1 of numbers in ascending order; NaN of none. */
export function quantileOf(sorted: readonly number[], p: number): number {
  const h = (sorted.length - 1) * p;
  const below = Math.floor(h);
  const lower = sorted[below] ?? NaN;
  const upper = sorted[Math.min(below + 1, sorted.length - 1)] ?? NaN;
  return lower + (h - below) * (upper - lower);
}

/** Null of no numbers; they are in ascending order. */
export function quartilesOf(sorted: readonly number[]): Quartiles | null {
  if (sorted.length === 0) return null;
  const [low, q1, median, q3, high] = [0, 0.25, 0.5, 0.75, 1].map((p) => quantileOf(sorted, p));
  return { low: low!, q1: q1!, median: median!, q3: q3!, high: high! };
}
