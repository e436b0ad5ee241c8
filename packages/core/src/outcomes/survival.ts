/**
 * Time to an event with right-censored observations: the product-limit estimate. Sources:
 * E. L. Kaplan and P. Meier, Journal of the American Statistical Association 53 (1958), 457–481; M. Greenwood's variance; the
 * band on the scale log(−log S), as engine O2 says.
 */
import { Z95 } from './proportion.ts';

export interface ObservedSpan {
  /** Days of 24 hours since the clock started; at least 0. */
  readonly days: number;
  /** True when it happened then; false when nothing more is known from then on. */
  readonly act: boolean;
}

/** A line for each distinct time at which it happened. */
export interface CurvePoint {
  readonly days: number;
  /** Of how many it was not yet known just before. */
  readonly atRisk: number;
  readonly acts: number;
  /** The share without the event so far, 0 to 1, with its 95% band. */
  readonly survival: number;
  readonly low: number;
  readonly high: number;
}

/** At equal times acts come before censorings. */
export function survivalCurve(spans: readonly ObservedSpan[]): CurvePoint[] {
  const sorted = spans.toSorted((a, b) => a.days - b.days);
  const points: CurvePoint[] = [];
  let survival = 1;
  let variance = 0;
  for (let i = 0; i < sorted.length;) {
    const { days } = sorted[i]!;
    const atRisk = sorted.length - i;
    let acts = 0;
    while (i < sorted.length && sorted[i]!.days === days) if (sorted[i++]!.act) acts++;
    if (acts === 0) continue;
    survival *= (atRisk - acts) / atRisk;
    variance += acts / (atRisk * (atRisk - acts));
    points.push({ days, atRisk, acts, survival, ...band(survival, variance) });
  }
  return points;
}

/** `variance` is Greenwood's sum. Where S is 1 or 0 the band is S itself. */
function band(survival: number, variance: number): { readonly low: number; readonly high: number } {
  if (survival <= 0 || survival >= 1) return { low: survival, high: survival };
  const spread = (Z95 * Math.sqrt(variance)) / Math.abs(Math.log(survival));
  return { low: survival ** Math.exp(spread), high: survival ** Math.exp(-spread) };
}

/** The least time by which it has happened to half of them; null while the curve stays above. */
export const medianOf = (curve: readonly CurvePoint[]): number | null =>
  curve.find((p) => p.survival <= 0.5)?.days ?? null;
