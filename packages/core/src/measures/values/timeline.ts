/**
 * A measure of one student over all time. From it come the value at an instant and the stretches over a threshold, so
 * nothing is evaluated day by day. It holds no threshold: rules that differ in theirs share it.
 */
import { HOUR, type Instant } from '../../time/instant.ts';
import { round9, type Value } from './value.ts';

/**
 * Numbers that are piecewise constant, flat for speed: `[at0, number0, at1, number1, …]`. Each holds until the next instant, the
 * last one for ever, nothing before the first. NaN is unknown.
 */
export interface Numbers {
  readonly kind: 'numbers';
  readonly steps: readonly number[];
}

/** The same of texts, and of yes and no: `values[i]` holds on `[at[i], at[i + 1])`. */
export interface Steps {
  readonly kind: 'steps';
  readonly at: readonly Instant[];
  readonly values: readonly Exclude<Value, number>[];
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

export type Timeline = Numbers | Steps | Countdown | NotApplicable;

export const NOT_APPLICABLE: NotApplicable = { kind: 'none' };

/** A value that never changes, from `at` on. */
export const constantly = (at: Instant, value: Value): Numbers | Steps =>
  value === null || typeof value === 'number'
    ? { kind: 'numbers', steps: [at, value ?? NaN] }
    : { kind: 'steps', at: [at], values: [value] };

/** No, and yes from `since` on, told from `from` on. */
export function yesSince(since: Instant, from: Instant): Steps {
  if (since <= from || since === Infinity) return { kind: 'steps', at: [from], values: [since <= from] };
  return { kind: 'steps', at: [from, since], values: [false, true] };
}

/** Where a timeline takes another value, in order; a countdown does so all the time, and has none. */
export function changesOf(line: Timeline): readonly Instant[] {
  switch (line.kind) {
    case 'numbers':
      return line.steps.filter((_, i) => i % 2 === 0);
    case 'steps':
      return line.at;
    default:
      return [];
  }
}

/**
 * The value at t, or `undefined` where the measure says nothing: of an item that does not count, and before a story starts
 * (engine H4, H6), when it is not even known that something is empty.
 */
export function valueSaidAt(line: Timeline, t: Instant): Value | undefined {
  return t < beginOf(line) ? undefined : valueAt(line, t);
}

function beginOf(line: Timeline): Instant {
  switch (line.kind) {
    case 'none':
      return Infinity;
    case 'countdown':
      return line.from;
    case 'numbers':
      return line.steps[0] ?? Infinity;
    case 'steps':
      return line.at[0] ?? Infinity;
  }
}

/** The value at t; null is unknown. */
export function valueAt(line: Timeline, t: Instant): Value {
  switch (line.kind) {
    case 'none':
      return null;
    case 'countdown':
      return t < line.from ? null : round9((line.due - t) / HOUR);
    case 'numbers': {
      const { steps } = line;
      let lo = 0;
      let hi = steps.length >> 1;
      while (lo < hi) {
        const mid = (lo + hi) >> 1;
        if (steps[2 * mid]! <= t) lo = mid + 1;
        else hi = mid;
      }
      return lo === 0 ? null : numberOrNull(steps[2 * lo - 1]!);
    }
    case 'steps':
      return line.values[line.at.findLastIndex((at) => at <= t)] ?? null;
  }
}

/** A number of a timeline as a value: NaN is unknown. */
export const numberOrNull = (number: number): number | null => (Number.isNaN(number) ? null : number);
