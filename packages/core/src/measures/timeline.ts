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

/**
 * Collects steps in order; a value that does not change adds none, a second one at an instant replaces the first. It is built
 * once, and takes nothing after that.
 */
export class StepsBuilder {
  private readonly room: Room = rooms.pop() ?? { at: [], values: [] };
  private length = 0;

  set(at: Instant, value: Value): this {
    const v = typeof value === 'number' ? round9(value) : value;
    const { room, length } = this;
    if (length > 0 && room.at[length - 1]! >= at) {
      if (length > 1 && room.values[length - 2] === v) this.length--;
      else room.values[length - 1] = v;
    } else if (length === 0 || room.values[length - 1] !== v) {
      room.at[length] = at;
      room.values[length] = v;
      this.length++;
    }
    return this;
  }

  build(): Steps {
    const { room, length } = this;
    rooms.push(room);
    return { kind: 'steps', at: room.at.slice(0, length), values: room.values.slice(0, length) };
  }
}

/** Where steps are collected, used again and again, so that what is handed out is no longer than it need be. */
interface Room {
  readonly at: Instant[];
  readonly values: Value[];
}
const rooms: Room[] = [];

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
  private readonly at: number[] = [];
  private readonly values: number[] = [];

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
  stepsFrom(from: Instant): Steps {
    const { starts, ends, length, at, values } = this;
    sortFew(starts, length);
    sortFew(ends, length);
    let s = 0;
    let e = 0;
    while (s < length && starts[s]! <= from) s++;
    while (e < length && ends[e]! <= from) e++;
    let n = 1;
    at[0] = from;
    values[0] = s - e;
    for (;;) {
      const start = s < length ? starts[s]! : Infinity;
      const end = e < length ? ends[e]! : Infinity;
      const next = start < end ? start : end;
      if (next === Infinity) return { kind: 'steps', at: at.slice(0, n), values: values.slice(0, n) };
      while (s < length && starts[s] === next) s++;
      while (e < length && ends[e] === next) e++;
      if (s - e === values[n - 1]) continue;
      at[n] = next;
      values[n++] = s - e;
    }
  }
}

const shared = new OpenStretches();

/**
 * An empty count of open stretches. It is one for all, as a class asks for thousands: its steps are taken before anybody else
 * begins another.
 */
export const openStretches = (): OpenStretches => shared.begin();

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
