/**
 * A measure of one student over all time. From it come the value at an instant and the stretches over a threshold, so
 * nothing is evaluated day by day. It holds no threshold: rules that differ in theirs share it.
 */
import { HOUR, type Instant } from '../time/instant.ts';
import { round9, type Value } from './value.ts';

/** Piecewise constant: `values[i]` holds on `[at[i], at[i + 1])`, the last one for ever, nothing before `at[0]`. */
export interface Steps {
  readonly kind: 'steps';
  readonly at: readonly Instant[];
  readonly values: readonly Value[];
}

/** Hours until `due`, falling steadily from `from` on. */
export interface Countdown {
  readonly kind: 'countdown';
  readonly from: Instant;
  readonly due: Instant;
}

/** The measure says nothing of this student, not even that it is empty (engine H6). */
export interface NotApplicable {
  readonly kind: 'none';
}

export type Timeline = Steps | Countdown | NotApplicable;

export const NOT_APPLICABLE: NotApplicable = { kind: 'none' };

/** Collects steps in order; a value that does not change adds none, a second one at an instant replaces the first. */
export class StepsBuilder {
  private readonly at: Instant[] = [];
  private readonly values: Value[] = [];

  set(at: Instant, value: Value): this {
    const v = typeof value === 'number' ? round9(value) : value;
    const n = this.at.length;
    if (n > 0 && this.at[n - 1]! >= at) {
      this.values[n - 1] = v;
      if (n > 1 && this.values[n - 2] === v) {
        this.at.pop();
        this.values.pop();
      }
    } else if (n === 0 || this.values[n - 1] !== v) {
      this.at.push(at);
      this.values.push(v);
    }
    return this;
  }

  build(): Steps {
    return { kind: 'steps', at: this.at, values: this.values };
  }
}

/** Sorts a handful of numbers that mostly are in order already, in place: many times faster so than with a comparison function. */
function sortFew(numbers: number[]): void {
  for (let i = 1; i < numbers.length; i++) {
    const n = numbers[i]!;
    let k = i;
    for (; k > 0 && numbers[k - 1]! > n; k--) numbers[k] = numbers[k - 1]!;
    numbers[k] = n;
  }
}

/** Steps of how many stretches are open, given their starts and ends in any order; Infinity never ends. Both are sorted in place. */
export function countOpen(from: Instant, starts: number[], ends: number[]): Steps {
  sortFew(starts);
  sortFew(ends);
  let s = 0;
  let e = 0;
  while (s < starts.length && starts[s]! <= from) s++;
  while (e < ends.length && ends[e]! <= from) e++;
  let count = s - e;
  const at = [from];
  const values = [count];
  for (;;) {
    const start = s < starts.length ? starts[s]! : Infinity;
    const end = e < ends.length ? ends[e]! : Infinity;
    const next = start < end ? start : end;
    if (next === Infinity) return { kind: 'steps', at, values };
    while (s < starts.length && starts[s] === next) s++;
    while (e < ends.length && ends[e] === next) e++;
    if (s - e === count) continue;
    count = s - e;
    at.push(next);
    values.push(count);
  }
}

/**
 * The value at t, or `undefined` where the measure says nothing: of an item that does not count, and before a story starts
 * (engine H4, H6), when it is not even known that something is empty.
 */
export function saidAt(line: Timeline, t: Instant): Value | undefined {
  if (line.kind === 'none') return undefined;
  const begins = line.kind === 'countdown' ? line.from : (line.at[0] ?? Infinity);
  return t < begins ? undefined : valueAt(line, t);
}

/** The value at t; null is unknown. */
export function valueAt(line: Timeline, t: Instant): Value {
  switch (line.kind) {
    case 'none':
      return null;
    case 'countdown':
      return t < line.from ? null : round9((line.due - t) / HOUR);
    case 'steps': {
      let lo = 0;
      let hi = line.at.length;
      while (lo < hi) {
        const mid = (lo + hi) >> 1;
        if (line.at[mid]! <= t) lo = mid + 1;
        else hi = mid;
      }
      return lo === 0 ? null : line.values[lo - 1]!;
    }
  }
}
