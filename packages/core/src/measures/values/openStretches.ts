/** Collects stretches of time and counts how many are open at each instant. */
import type { Instant } from '../../time/instant.ts';
import type { Numbers } from './timeline.ts';

/** Sorts the first `n` of numbers that mostly are in order already, in place: many times faster so than with a comparison function. */
function sortFew(numbers: Float64Array, n: number): void {
  for (let i = 1; i < n; i++) {
    const x = numbers[i]!;
    let k = i;
    for (; k > 0 && numbers[k - 1]! > x; k--) numbers[k] = numbers[k - 1]!;
    numbers[k] = x;
  }
}

/** Counts how many of some stretches are open, given in any order. One end of Infinity never comes. */
class OpenStretches {
  private starts = new Float64Array(64);
  private ends = new Float64Array(64);
  private length = 0;
  private readonly steps: number[] = [];

  begin(): this {
    this.length = 0;
    return this;
  }

  add(start: Instant, end: Instant): void {
    if (this.length === this.starts.length) {
      const [starts, ends] = [this.starts, this.ends];
      this.starts = new Float64Array(2 * this.length);
      this.ends = new Float64Array(2 * this.length);
      this.starts.set(starts);
      this.ends.set(ends);
    }
    this.starts[this.length] = start;
    this.ends[this.length++] = end;
  }

  /** Steps of the count; what opened and closed before `from` counts from there on. */
  stepsFrom(from: Instant): Numbers {
    const { starts, ends, length, steps } = this;
    sortFew(starts, length);
    sortFew(ends, length);
    let s = 0;
    let e = 0;
    while (s < length && starts[s]! <= from) s++;
    while (e < length && ends[e]! <= from) e++;
    let n = 2;
    steps[0] = from;
    steps[1] = s - e;
    for (;;) {
      const start = s < length ? starts[s]! : Infinity;
      const end = e < length ? ends[e]! : Infinity;
      const next = start < end ? start : end;
      if (next === Infinity) {
        free.push(this);
        return { kind: 'numbers', steps: steps.slice(0, n) };
      }
      while (s < length && starts[s] === next) s++;
      while (e < length && ends[e] === next) e++;
      if (s - e === steps[n - 1]) continue;
      steps[n++] = next;
      steps[n++] = s - e;
    }
  }
}

const free: OpenStretches[] = [];

/** An empty count of open stretches, to be added to until its steps are taken. A class asks for thousands: few are made. */
export const openStretches = (): OpenStretches => (free.pop() ?? new OpenStretches()).begin();
