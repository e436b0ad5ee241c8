/**
 * A measure of one student over all time. From it come the value at an instant and the stretches over a threshold, so
 * nothing is evaluated day by day. It holds no threshold: rules that differ in theirs share it.
 */
import { appendStretch, NEVER, stretch, type Stretches } from '../time/stretches.ts';
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

/** Steps of a running count from its changes; changes before `from` are summed into the first step. */
export function countSteps(from: Instant, changes: readonly (readonly [at: Instant, by: number])[]): Steps {
  const sorted = changes.filter(([at]) => at < Infinity).sort((a, b) => a[0] - b[0]);
  const steps = new StepsBuilder();
  let count = 0;
  let i = 0;
  while (i < sorted.length && sorted[i]![0] <= from) count += sorted[i++]![1];
  steps.set(from, count);
  for (; i < sorted.length; i++) {
    count += sorted[i]![1];
    steps.set(sorted[i]![0], count);
  }
  return steps.build();
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
  const steps = new StepsBuilder();
  let s = 0;
  let e = 0;
  while (s < starts.length && starts[s]! <= from) s++;
  while (e < ends.length && ends[e]! <= from) e++;
  steps.set(from, s - e);
  for (;;) {
    const start = s < starts.length ? starts[s]! : Infinity;
    const end = e < ends.length ? ends[e]! : Infinity;
    const at = start < end ? start : end;
    if (at === Infinity) return steps.build();
    while (s < starts.length && starts[s] === at) s++;
    while (e < ends.length && ends[e] === at) e++;
    steps.set(at, s - e);
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

/** Whether a value meets a test; null where that is unknown. */
export type Test = (value: Value) => boolean | null;

/** Where a condition is true and where it is false; the rest is unknown (engine C4). */
export interface Truth {
  readonly yes: Stretches;
  readonly no: Stretches;
}

/** The same for each person, by place in the roster. */
export type Truths = (person: number) => Truth;

export const UNKNOWN: Truth = { yes: NEVER, no: NEVER };

export function truthOf(line: Timeline, test: Test): Truth {
  switch (line.kind) {
    case 'none':
      return UNKNOWN;
    case 'steps':
      return truthOfSteps(line, test);
    case 'countdown':
      return truthOfCountdown(line, test);
  }
}

function truthOfSteps(line: Steps, test: Test): Truth {
  const yes: number[] = [];
  const no: number[] = [];
  const n = line.at.length;
  for (let i = 0; i < n; i++) {
    const verdict = test(line.values[i]!);
    if (verdict === null) continue;
    appendStretch(verdict ? yes : no, line.at[i]!, i + 1 < n ? line.at[i + 1]! : Infinity);
  }
  return { yes, no };
}

/** The verdict of a falling number changes only around one boundary, found by halving; equality holds for an instant. */
function truthOfCountdown(line: Countdown, test: Test): Truth {
  const at = (t: Instant) => test(round9((line.due - t) / HOUR));
  const yes: number[] = [];
  const no: number[] = [];
  const far = 4e12;
  const low = Math.max(line.from, line.due - far);
  const points = boundaries(at, low, Math.max(low, line.due + far));
  let from = line.from;
  for (const p of [...points, Infinity]) {
    const verdict = at(from === -Infinity ? low : from);
    if (verdict !== null) appendStretch(verdict ? yes : no, from, p);
    from = p;
  }
  return { yes, no };
}

/** All t in (low, high] whose verdict differs from the one at t − 1, for a verdict that is monotone or a single peak. */
function boundaries(at: (t: Instant) => boolean | null, low: Instant, high: Instant): Instant[] {
  const change = (a: Instant, b: Instant): Instant => {
    const first = at(a);
    while (b - a > 1) {
      const mid = Math.floor((a + b) / 2);
      if (at(mid) === first) a = mid;
      else b = mid;
    }
    return b;
  };
  return at(low) === at(high) ? [] : [change(low, high)];
}

/** The stretch of one value around a single instant, for equality with a countdown. */
export function truthOfEquality(line: Countdown, hours: number, equal: boolean): Truth {
  const t = line.due - Math.round(hours * HOUR);
  const hit = t >= line.from && round9((line.due - t) / HOUR) === round9(hours);
  const point = hit ? stretch(t, t + 1) : NEVER;
  const rest: number[] = [];
  if (hit) {
    appendStretch(rest, line.from, t);
    appendStretch(rest, t + 1, Infinity);
  } else appendStretch(rest, line.from, Infinity);
  return equal ? { yes: point, no: rest } : { yes: rest, no: point };
}
