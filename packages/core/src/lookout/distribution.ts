/** The small distribution over a column: how many students have which value, and how many of them are shown. */
import type { MeasureUnit } from '../measures/values/measure.ts';
import type { Value } from '../measures/values/value.ts';

export type Distribution =
  | {
      readonly kind: 'numbers';
      /**
       * Lower bounds of the bins and the upper bound of the last one; a bin leaves its upper bound to the next. All are equally
       * wide but the last, which takes in whatever lies far out.
       */
      readonly edges: readonly number[];
      readonly counts: readonly number[];
      /** The least and the greatest value. */
      readonly low: number;
      readonly high: number;
      readonly mean: number;
      readonly unknown: number;
    }
  | {
      readonly kind: 'choices';
      readonly choices: readonly (string | number | boolean)[];
      readonly counts: readonly number[];
      /** How many more texts there are than are listed. */
      readonly more: number;
      readonly unknown: number;
    };

const MOST_BINS = 12;
const MOST_CHOICES = 12;
/** The share of students that are never far out, and how many times as far as all of them is. */
const MOST_OF_THEM = 0.95;
const FAR_OUT = 2;

/** Round steps, so that the bounds of bins are numbers that somebody would type. */
function stepFor(span: number, whole: boolean): number {
  const least = span / MOST_BINS;
  const power = 10 ** Math.floor(Math.log10(Math.max(least, 1e-9)));
  const step = [1, 2, 5, 10].map((f) => f * power).find((s) => s >= least) ?? power * 10;
  return whole ? Math.max(1, Math.ceil(step)) : step;
}

export function distributionOf(values: readonly Value[], unit: MeasureUnit): Distribution {
  const unknown = values.filter((v) => v === null).length;
  const numbers = values.filter((v) => typeof v === 'number');
  const texts = values.filter((v) => typeof v === 'string');
  if (unit === 'yesNo' || texts.length > 0) return choicesOf(values, unit, unknown);
  const low = numbers.reduce((a, b) => Math.min(a, b), Infinity);
  const high = numbers.reduce((a, b) => Math.max(a, b), -Infinity);
  if (numbers.length === 0) {
    return { kind: 'numbers', edges: [0, 1], counts: [0], low: 0, high: 1, mean: 0, unknown };
  }
  const whole = numbers.every((n) => Number.isInteger(n));
  // A few who are far out would squeeze all others into one bin: they share the last one.
  const sorted = numbers.toSorted((a, b) => a - b);
  const most = sorted[Math.ceil(sorted.length * MOST_OF_THEM) - 1]!;
  const far = high - low > FAR_OUT * (most - low) && most > low;
  const step = stepFor(Math.max((far ? most : high) - low, whole ? 1 : 1e-6), whole);
  const from = Math.floor(low / step) * step;
  const bins = Math.max(1, Math.floor(((far ? most : high) - from) / step) + 1);
  const edges = Array.from({ length: bins + 1 }, (_, i) => tidy(from + i * step));
  if (far) edges.push(whole ? high + 1 : high);
  const counts = new Array<number>(edges.length - 1).fill(0);
  for (const n of numbers) counts[binIn(edges, n)]!++;
  const mean = numbers.reduce((a, b) => a + b, 0) / numbers.length;
  return { kind: 'numbers', edges, counts, low, high, mean, unknown };
}

const tidy = (n: number): number => Math.round(n * 1e9) / 1e9;

function choicesOf(values: readonly Value[], unit: MeasureUnit, unknown: number): Distribution {
  const found = new Map<string | number | boolean, number>(
    unit === 'yesNo' ? [[false, 0] as const, [true, 0] as const] : [],
  );
  for (const v of values) if (v !== null) found.set(v, (found.get(v) ?? 0) + 1);
  const sorted =
    unit === 'yesNo'
      ? [...found]
      : [...found].sort((a, b) => b[1] - a[1] || String(a[0]).localeCompare(String(b[0]), 'en', { numeric: true }));
  const listed = sorted.slice(0, MOST_CHOICES);
  return {
    kind: 'choices',
    choices: listed.map(([value]) => value),
    counts: listed.map(([, n]) => n),
    more: sorted.length - listed.length,
    unknown,
  };
}

/** The bin of a number that lies within the edges. */
export function binIn(edges: readonly number[], n: number): number {
  const bins = edges.length - 1;
  const step = edges[1]! - edges[0]!;
  const guess = Math.min(bins - 1, Math.max(0, Math.floor((n - edges[0]!) / step)));
  // A step such as 0.1 has no exact number.
  if (n < edges[guess]! && guess > 0) return guess - 1;
  return guess < bins - 1 && n >= edges[guess + 1]! ? guess + 1 : guess;
}

/** How many of some students fall into each bin, or choose each value. */
export function countsWithin(d: Distribution, values: readonly Value[], rows: ArrayLike<number>): number[] {
  const counts = new Array<number>(d.counts.length).fill(0);
  if (d.kind === 'numbers') {
    for (let k = 0; k < rows.length; k++) {
      const v = values[rows[k]!];
      if (typeof v === 'number') counts[binIn(d.edges, v)]!++;
    }
    return counts;
  }
  const places = new Map(d.choices.map((c, i) => [c, i]));
  for (let k = 0; k < rows.length; k++) {
    const v = values[rows[k]!];
    const place = v == null ? undefined : places.get(v);
    if (place !== undefined) counts[place]!++;
  }
  return counts;
}
