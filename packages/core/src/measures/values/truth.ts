/**
 * Where a comparison holds on a timeline. Each side is worked out when somebody asks for it: rounds and replays mostly ask
 * where a condition is true, and never where it is false.
 */
import { handOut, borrowRoom } from '../../time/room.ts';
import { NEVER, stretch, type Stretches } from '../../time/stretches.ts';
import { HOUR, type Instant } from '../../time/instant.ts';
import { numberOrNull, type Countdown, type Numbers, type Steps, type Timeline } from './timeline.ts';
import { round9, type Value } from './value.ts';

/** Whether a value meets a test; null where that is unknown. */
export type Test = (value: Value) => boolean | null;

/** Where a condition is true for a person (by place in the roster), or where it is false; the rest is unknown (engine C4). */
export type TruthStretches = (person: number, holds: boolean) => Stretches;

/** The stretches of a timeline on which a comparison holds, or on which it does not. */
export type ComparisonStretches = (line: Timeline, holds: boolean) => Stretches;

/** On which sides of a limit a number may lie, as bits: the sides of `>=` are MORE and EQUAL. */
export const LESS = 1;
export const EQUAL = 2;
export const MORE = 4;
const ANY_SIDE = LESS | EQUAL | MORE;

/** The side of a limit on which a number lies; 0 for NaN, which is unknown and on no side. */
export const sideOf = (value: number, limit: number): number =>
  value < limit ? LESS : value > limit ? MORE : value === limit ? EQUAL : 0;

/** Where a number lies on one of the sides of the limit. What is no number is unknown, and on no side. */
export const whereNumber =
  (limit: number, sides: number): ComparisonStretches =>
  (line, holds) => {
    const wanted = holds ? sides : ANY_SIDE ^ sides;
    switch (line.kind) {
      case 'none':
        return NEVER;
      case 'numbers':
        return numbersOn(line, limit, wanted);
      case 'steps':
        // No text and no yes or no is on a side of a number.
        return NEVER;
      case 'countdown':
        return countdownOn(line, limit, wanted);
    }
  };

/** Where a test gives the verdict; it must give one verdict on all numbers. */
export const whereTest =
  (test: Test): ComparisonStretches =>
  (line, holds) => {
    switch (line.kind) {
      case 'none':
        return NEVER;
      case 'numbers':
        return numbersWith(line, test, holds);
      case 'steps':
        return stepsWith(line, test, holds);
      case 'countdown':
        return test(0) === holds ? stretch(line.from, Infinity) : NEVER;
    }
  };

function numbersOn({ steps }: Numbers, limit: number, wanted: number): Stretches {
  const edges = borrowRoom();
  let n = 0;
  let open = false;
  for (let i = 0; i < steps.length; i += 2) {
    const holds = (sideOf(steps[i + 1]!, limit) & wanted) !== 0;
    if (holds === open) continue;
    edges[n++] = steps[i]!;
    open = holds;
  }
  return closed(edges, n, open);
}

function numbersWith({ steps }: Numbers, test: Test, verdict: boolean): Stretches {
  const edges = borrowRoom();
  let n = 0;
  let open = false;
  for (let i = 0; i < steps.length; i += 2) {
    const holds = test(numberOrNull(steps[i + 1]!)) === verdict;
    if (holds === open) continue;
    edges[n++] = steps[i]!;
    open = holds;
  }
  return closed(edges, n, open);
}

function stepsWith({ at, values }: Steps, test: Test, verdict: boolean): Stretches {
  const edges = borrowRoom();
  let n = 0;
  let open = false;
  for (let i = 0; i < at.length; i++) {
    const holds = test(values[i]!) === verdict;
    if (holds === open) continue;
    edges[n++] = at[i]!;
    open = holds;
  }
  return closed(edges, n, open);
}

/** The first `n` edges, and for ever where the last stretch is open. */
function closed(edges: number[], n: number, open: boolean): Stretches {
  if (open) edges[n++] = Infinity;
  const found = handOut(edges, n);
  return n === 0 ? NEVER : found;
}

/** Longer than any course is away, in ms; up to here hours are exact to nine decimals. */
const FAR = 4e12;

/** Hours left fall by less than a millionth each ms: they lie over the limit, at it for an instant at most, and under it. */
function countdownOn({ from, due }: Countdown, limit: number, wanted: number): Stretches {
  const ahead = limit * HOUR;
  if (!(Math.abs(ahead) < FAR)) return wanted & (limit > 0 ? LESS : MORE) ? stretch(from, Infinity) : NEVER;
  let reached = due - Math.round(ahead) - 2;
  while (leftSide(due, reached, limit) === MORE) reached++;
  const under = leftSide(due, reached, limit) === EQUAL ? reached + 1 : reached;
  const edges = borrowRoom();
  let n = 0;
  if (wanted & MORE) n = joinedTo(edges, n, from, reached);
  if (wanted & EQUAL) n = joinedTo(edges, n, Math.max(from, reached), under);
  if (wanted & LESS) n = joinedTo(edges, n, Math.max(from, under), Infinity);
  const found = handOut(edges, n);
  return n === 0 ? NEVER : found;
}

/** Adds a stretch behind the `n` edges there are, or to the last one where they touch. Gives the number of edges. */
function joinedTo(edges: number[], n: number, start: Instant, end: Instant): number {
  if (start >= end) return n;
  if (n > 0 && edges[n - 1] === start) {
    edges[n - 1] = end;
    return n;
  }
  edges[n] = start;
  edges[n + 1] = end;
  return n + 2;
}

const leftSide = (due: Instant, t: Instant, limit: number): number => sideOf(round9((due - t) / HOUR), limit);
