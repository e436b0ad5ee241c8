/** Where a value is on the dot plot, and what a place on it means. Pure, so that it can be tested without a screen. */
import { isWhole, type MeasureUnit } from '@zest-bell/core/measures';
import type { Comparator } from '@zest-bell/core/conditions';
import type { Dot } from '@zest-bell/core/rounds';

export interface Scale {
  readonly low: number;
  readonly high: number;
  /** Values are whole numbers: each has a column of its own. */
  readonly whole: boolean;
  readonly width: number;
  /** Values beyond `high` stand at the edge: a few far ones must not press the class together. */
  readonly clipped: boolean;
  x(value: number): number;
  /** The nearest value that a threshold may take. */
  valueAt(x: number): number;
  readonly ticks: readonly number[];
}

const MARGIN = 14;

/** Room for the number at the end of a clipped axis, in px. */
const CLIPPED_LABEL = 30;

/** A scale that holds every dot and the threshold, with room to drag. */
export function scaleFor(values: readonly number[], threshold: number | null, unit: MeasureUnit, width: number): Scale {
  const whole = isWhole(unit);
  const known = threshold === null ? values : [...values, threshold];
  let low = Math.min(0, ...known.map(Math.floor));
  let high = Math.max(unit === 'percent' ? 100 : 4, ...known.map(Math.ceil));
  const lid = lidFor(values, threshold);
  const clipped = whole && high > lid;
  if (clipped) high = lid;
  if (unit !== 'percent' && threshold !== null) {
    high = Math.max(high, threshold + Math.max(2, Math.ceil(high * 0.1)));
  }
  if (unit === 'hours') {
    low = Math.floor(low / 24) * 24;
    high = Math.ceil(high / 24) * 24;
  }
  const inner = Math.max(1, width - 2 * MARGIN);
  const span = high - low || 1;
  const step = tickStep(span, inner / 56, unit);
  const ticks: number[] = [];
  for (let t = Math.ceil(low / step) * step; t <= high + 1e-9; t += step) ticks.push(t);
  // A clipped axis ends with “16+”: a number right before it would run into it.
  while (clipped && ((high - ticks.at(-1)!) / span) * inner < CLIPPED_LABEL) ticks.pop();
  return {
    low,
    high,
    whole,
    width,
    clipped,
    x: (value) => MARGIN + ((Math.min(value, high) - low) / span) * inner,
    valueAt: (x) => {
      const value = low + ((x - MARGIN) / inner) * span;
      return Math.min(high, Math.max(low, Math.round(value)));
    },
    ticks,
  };
}

/** Room for most of the class and for dragging; at least two weeks of days. */
function lidFor(values: readonly number[], threshold: number | null): number {
  const sorted = [...values].sort((a, b) => a - b);
  const most = sorted[Math.floor(sorted.length * 0.93)] ?? 0;
  return Math.max(14, Math.ceil(most * 1.25), Math.ceil((threshold ?? 0) * 1.6));
}

function tickStep(span: number, most: number, unit: MeasureUnit): number {
  const steps = unit === 'hours' ? [6, 12, 24, 48, 72, 168, 336, 720] : [1, 2, 5, 10, 20, 25, 50, 100, 200, 500, 1000];
  return steps.find((s) => span / s <= most) ?? steps.at(-1)! * Math.ceil(span / steps.at(-1)! / most);
}

/** The place of a threshold's line: between whole values, so that each dot is plainly on one side. */
export function lineX(scale: Scale, is: Comparator, value: number): number {
  const nudge = !scale.whole ? 0 : is === '>=' || is === '<' ? -0.5 : is === '>' || is === '<=' ? 0.5 : 0;
  return scale.x(value + nudge);
}

/** The part of the axis, as pixels, on which the comparison holds; null for one that has no side. */
export function matchingSide(scale: Scale, is: Comparator, value: number): readonly [from: number, to: number] | null {
  const line = lineX(scale, is, value);
  if (is === '>=' || is === '>') return [line, scale.width];
  if (is === '<=' || is === '<') return [0, line];
  if (is !== 'equals') return null;
  const half = scale.whole ? (scale.x(1) - scale.x(0)) / 2 : 4;
  return [line - half, line + half];
}

export interface PlacedDot extends Dot {
  readonly x: number;
  readonly y: number;
}

/** One value that most of the class has: a bar with a number on it, so that the others keep room for a dot each. */
export interface Pile {
  readonly x: number;
  readonly value: number;
  readonly students: number;
  /** How many of them match. */
  readonly all: number;
  /** How many meet the condition that is drawn, and do not match. */
  readonly some: number;
}

/** A column of more dots may become a pile; beside a column of more than `BESIDE` it does not, as that is a spread. */
const TALL = 16;
const BESIDE = 10;

/** Stacks the dots in columns from the base line up; columns that would grow too tall are pressed together. */
export function placeDots(
  dots: readonly Dot[],
  scale: Scale,
  height: number,
): { readonly placed: readonly PlacedDot[]; readonly radius: number; readonly pile: Pile | null } {
  const numeric = dots.filter((d): d is Dot & { value: number } => typeof d.value === 'number');
  const unitWidth = scale.whole ? scale.x(1) - scale.x(0) : 0;
  const pitch = scale.whole && unitWidth >= 5 ? Math.min(15, unitWidth) : 14;
  const columnOf = (value: number) =>
    scale.whole && unitWidth >= 5 ? scale.x(value) : Math.round(scale.x(value) / pitch) * pitch;
  const columns = new Map<number, Dot[]>();
  for (const d of [...numeric].sort((a, b) => a.value - b.value)) {
    const x = columnOf(d.value);
    const column = columns.get(x);
    if (column) column.push(d);
    else columns.set(x, [d]);
  }
  const [highest, next] = [...columns].toSorted(([, a], [, b]) => b.length - a.length);
  const isPile = highest !== undefined && highest[1].length > TALL && (next?.[1].length ?? 0) <= BESIDE;
  if (isPile) columns.delete(highest[0]);
  const pile = isPile ? pileOf(...highest) : null;
  const tallest = Math.max(1, ...[...columns.values()].map((c) => c.length));
  const rise = Math.min(pitch, height / tallest);
  const radius = Math.max(1.5, Math.min(6.4, pitch / 2 - 0.8, Math.max(rise / 2, 3)));
  const placed = [...columns].flatMap(([x, column]) =>
    column.map((d, i): PlacedDot => ({ ...d, x, y: height - rise * (i + 0.5) })),
  );
  return { placed, radius, pile };
}

const pileOf = (x: number, column: readonly Dot[]): Pile => ({
  x,
  value: column[0]!.value as number,
  students: column.length,
  all: column.filter((d) => d.meets === 'all').length,
  some: column.filter((d) => d.meets === 'this').length,
});
