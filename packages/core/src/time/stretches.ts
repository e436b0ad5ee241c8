/**
 * Sets of time as sorted, disjoint, half-open stretches `[start, end)` (engine C4), kept flat for speed:
 * `[start0, end0, start1, end1, …]`. Touching stretches are always merged, so a spell is one entry.
 */
import { handOut, borrowRoom } from './room.ts';
import type { Instant } from './instant.ts';

export type Stretches = readonly number[];

export const NEVER: Stretches = [];
export const ALWAYS: Stretches = [-Infinity, Infinity];

/** Bounds: `[start, end)`; empty when start ≥ end. */
export const stretch = (start: Instant, end: Instant): Stretches => (start < end ? [start, end] : NEVER);

/** Adds `[start, end)` behind what is there; calls must come in order of start. */
export function appendStretch(into: number[], start: Instant, end: Instant): void {
  if (start >= end) return;
  const n = into.length;
  if (n > 0 && into[n - 1]! >= start) into[n - 1] = Math.max(into[n - 1]!, end);
  else into.push(start, end);
}

export function union(a: Stretches, b: Stretches): Stretches {
  if (a.length === 0) return b;
  if (b.length === 0) return a;
  const edges = borrowRoom();
  let n = 0;
  let i = 0;
  let j = 0;
  while (i < a.length || j < b.length) {
    const takeA = j >= b.length || (i < a.length && a[i]! <= b[j]!);
    const start = takeA ? a[i]! : b[j]!;
    const end = takeA ? a[i + 1]! : b[j + 1]!;
    if (takeA) i += 2;
    else j += 2;
    if (n === 0 || edges[n - 1]! < start) {
      edges[n++] = start;
      edges[n++] = end;
    } else if (edges[n - 1]! < end) edges[n - 1] = end;
  }
  return handOut(edges, n);
}

export function intersection(a: Stretches, b: Stretches): Stretches {
  if (a.length === 0 || b.length === 0) return NEVER;
  if (a === ALWAYS) return b;
  const edges = borrowRoom();
  let n = 0;
  let i = 0;
  let j = 0;
  while (i < a.length && j < b.length) {
    const start = Math.max(a[i]!, b[j]!);
    const end = Math.min(a[i + 1]!, b[j + 1]!);
    if (start < end) {
      edges[n++] = start;
      edges[n++] = end;
    }
    if (a[i + 1]! < b[j + 1]!) i += 2;
    else j += 2;
  }
  const found = handOut(edges, n);
  return n === 0 ? NEVER : found;
}

/** All of time that is not in `a`. */
export function complement(a: Stretches): Stretches {
  const out: number[] = [];
  let from = -Infinity;
  for (let i = 0; i < a.length; i += 2) {
    appendStretch(out, from, a[i]!);
    from = a[i + 1]!;
  }
  appendStretch(out, from, Infinity);
  return out;
}

/** The place of the first of some instants in order that is ≥ t, looked for from the place `from` on; their number where none is. */
export function placeFrom(instants: readonly Instant[], t: Instant, from = 0): number {
  let lo = from;
  let hi = instants.length;
  while (lo < hi) {
    const mid = (lo + hi) >> 1;
    if (instants[mid]! < t) lo = mid + 1;
    else hi = mid;
  }
  return lo;
}

/** The index of the stretch with start ≤ t (an even number), or -1. */
function indexBefore(a: Stretches, t: Instant): number {
  let lo = 0;
  let hi = a.length / 2;
  // Mostly it is the last one.
  if (hi > 0 && a[a.length - 2]! <= t) return a.length - 2;
  while (lo < hi) {
    const mid = (lo + hi) >> 1;
    if (a[mid * 2]! <= t) lo = mid + 1;
    else hi = mid;
  }
  return (lo - 1) * 2;
}

/** The index of the stretch that contains t (an even number), or -1. Bounds: start ≤ t < end. */
export function placeAt(a: Stretches, t: Instant): number {
  const i = indexBefore(a, t);
  return i >= 0 && t < a[i + 1]! ? i : -1;
}

export const contains = (a: Stretches, t: Instant): boolean => placeAt(a, t) >= 0;

/** The stretch that holds t, as its start and end, or null. */
export function stretchAt(a: Stretches, t: Instant): { start: Instant; end: Instant } | null {
  const i = placeAt(a, t);
  return i < 0 ? null : { start: a[i]!, end: a[i + 1]! };
}
