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

/** The brush that takes in these bins and those between them. */
export const brushOfBins = (d: Numeric, from: number, to: number): Brush =>
  brushOf(d, d.edges[from]!, upperValue(d, to));

/**
 * A brush that reaches the end of the distribution has no bound on that side, so that it also takes in students who go beyond it later. A
 * brush on one value means exactly that value, not “0 or less”. One over the whole distribution stays a brush.
 */
function brushOf(d: Numeric, low: number, high: number): Brush {
  const [least, greatest] = valuesOf(d, null);
  // What lies beyond the last bin is in it.
  if (high === greatest && d.high > high) return { kind: 'range', low, high: null };
  if (low === high || (low === least && high === greatest)) return { kind: 'range', low, high };
  return { kind: 'range', low: low === least ? null : low, high: high === greatest ? null : high };
}

/** The values at the ends of a brush, or of all there is. */
export function valuesOf(d: Numeric, brush: Brush | null): readonly [number, number] {
  const [low, high] = brush?.kind === 'range' ? [brush.low, brush.high] : [null, null];
  return [low ?? d.edges[0]!, high ?? upperValue(d, d.edges.length - 2)];
}

/** One end moved by so much, up to the other end and the range: a condition never exceeds it. */
export function withEndMoved(d: Numeric, brush: Brush | null, end: 'low' | 'high', by: number): Brush {
  const [low, high] = valuesOf(d, brush);
  const [least, greatest] = valuesOf(d, null);
  const moved = Math.max(least, Math.min(greatest, (end === 'low' ? low : high) + by));
  return end === 'low' ? brushOf(d, Math.min(moved, high), high) : brushOf(d, low, Math.max(moved, low));
}

/** The greatest value of a bin, as its handle tells it. */
export const upperValue = (d: Numeric, bin: number): number => (isWhole(d) ? d.edges[bin + 1]! - 1 : d.edges[bin + 1]!);
