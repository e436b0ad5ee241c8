/** Which bins of a column's distribution a brush takes in, and the brush that takes in these. */
import type { Brush, Distribution } from '@zest-bell/core/lookout';

export type Numeric = Extract<Distribution, { kind: 'numbers' }>;

/** Whole values one apart: a bin is a value, and its upper bound is that value itself. */
const isWhole = (d: Numeric): boolean => d.edges.every((e) => Number.isInteger(e)) && d.edges[1]! - d.edges[0]! === 1;

/** Both included; all of them without a brush on a range. */
export function binsOf(d: Numeric, brush: Brush | null): readonly [number, number] {
  const last = d.edges.length - 2;
  if (brush?.kind !== 'range') return [0, last];
  const { low, high } = brush;
  const first = low === null ? 0 : d.edges.findLastIndex((e) => e <= low);
  const from = Math.min(Math.max(0, first), last);
  if (high === null) return [from, last];
  const whole = isWhole(d);
  const to = d.edges.findIndex((e, i) => i > 0 && (whole ? e > high : e >= high));
  return [from, to < 0 ? last : to - 1];
}

/** Null where they are all there are. */
export function brushOfBins(d: Numeric, from: number, to: number): Brush | null {
  const low = from === 0 ? null : d.edges[from]!;
  const high = to === d.edges.length - 2 ? null : upperValue(d, to);
  return low === null && high === null ? null : { kind: 'range', low, high };
}

/** The greatest value of a bin, as its handle tells it. */
export const upperValue = (d: Numeric, bin: number): number => (isWhole(d) ? d.edges[bin + 1]! - 1 : d.edges[bin + 1]!);
