/**
 * One measure of all people of a course over time, as columns: the values in a typed array, texts through a dictionary, and
 * the unknown marked apart. It is computed once for a measure and a state of the history, and sent as it is.
 */
import { pack, unpack } from '../../activity/packed.ts';
import type { Instant } from '../../time/instant.ts';
import type { Fact } from '../values/fact.ts';
import type { Facts } from './facts.ts';
import type { MeasureCall } from '../values/measure.ts';
import { NOT_APPLICABLE, numberOrNull, valueSaidAt, type Steps, type Timeline } from '../values/timeline.ts';

/** What a number in `values` represents. */
const UNKNOWN = 0;
const NUMBER = 1;
const TRUTH = 2;
const TEXT = 3;

export interface MeasureColumn {
  readonly call: MeasureCall;
  /** Instant of `facts`. */
  readonly at: Instant;
  /** By place in the roster: the fact behind the value at that instant. */
  readonly facts: readonly Fact[];
  /** Texts that values stand for. */
  readonly texts: readonly string[];
  /** Steps of person `i` lie from `starts[i]` to `starts[i + 1]`; none where the measure says nothing of them. */
  readonly starts: Int32Array;
  readonly instants: Float64Array;
  readonly values: Float64Array;
  /** What each value is; a countdown of person `i` has two steps of kind `COUNTDOWN`: from when on, and until when. */
  readonly kinds: Uint8Array;
}
const COUNTDOWN = 4;

export function measureColumn(call: MeasureCall, facts: Facts, at: Instant): MeasureColumn {
  const { people } = facts.course;
  const texts = new Map<string, number>();
  const lines = people.map((_, i) => facts.timeline(i, call));
  const starts = new Int32Array(people.length + 1);
  lines.forEach((line, i) => (starts[i + 1] = starts[i]! + stepsOf(line)));
  // A large class has some hundred thousand steps: each is written once, where it stays.
  const instants = new Float64Array(starts[people.length]!);
  const values = new Float64Array(instants.length);
  const kinds = new Uint8Array(instants.length);
  lines.forEach((line, i) => {
    const from = starts[i]!;
    if (line.kind === 'countdown') {
      instants[from] = line.from;
      values[from] = line.due;
      kinds[from] = COUNTDOWN;
    } else if (line.kind === 'numbers') {
      for (let k = 0; k < line.steps.length; k += 2) {
        const value = numberOrNull(line.steps[k + 1]!);
        const step = from + (k >> 1);
        instants[step] = line.steps[k]!;
        values[step] = value ?? 0;
        kinds[step] = value === null ? UNKNOWN : NUMBER;
      }
    } else if (line.kind === 'steps') {
      for (let k = 0; k < line.at.length; k++) {
        const value = line.values[k]!;
        instants[from + k] = line.at[k]!;
        values[from + k] = value === null ? 0 : typeof value === 'string' ? placeOf(texts, value) : Number(value);
        kinds[from + k] = KIND_OF[typeof value as 'boolean' | 'string' | 'object'];
      }
    }
  });
  return {
    call,
    at,
    facts: people.map((_, i) => facts.fact(i, call, at)),
    texts: [...texts.keys()],
    starts,
    instants,
    values,
    kinds,
  };
}

function stepsOf(line: Timeline): number {
  if (line.kind === 'countdown') return 1;
  if (line.kind === 'numbers') return line.steps.length >> 1;
  return line.kind === 'steps' ? line.at.length : 0;
}

/** The place of a text in the dictionary. */
function placeOf(texts: Map<string, number>, text: string): number {
  if (!texts.has(text)) texts.set(text, texts.size);
  return texts.get(text)!;
}

/**
 * The same at one instant alone, without the facts behind it, for a table of a large class: whole timelines would
 * be many times as much. A student about whom the measure says nothing at that instant has no step.
 */
export function momentColumn(call: MeasureCall, facts: Facts, at: Instant): MeasureColumn {
  const { people } = facts.course;
  const texts = new Map<string, number>();
  const starts = new Int32Array(people.length + 1);
  const values: number[] = [];
  const kinds: number[] = [];
  people.forEach((_, i) => {
    const value = valueSaidAt(facts.timeline(i, call), at);
    if (value !== undefined) {
      kinds.push(KIND_OF[typeof value as 'number' | 'boolean' | 'string' | 'object']);
      values.push(value === null ? 0 : typeof value === 'string' ? placeOf(texts, value) : Number(value));
    }
    starts[i + 1] = values.length;
  });
  const [instants, column] = [new Float64Array(values.length).fill(at), Float64Array.from(values)];
  return {
    call,
    at,
    facts: [],
    texts: [...texts.keys()],
    starts,
    instants,
    values: column,
    kinds: Uint8Array.from(kinds),
  };
}
const KIND_OF = { number: NUMBER, boolean: TRUTH, string: TEXT, object: UNKNOWN } as const;

/** The timeline of a person, by place in the roster. */
export function timelineIn(column: MeasureColumn, person: number): Timeline {
  const from = column.starts[person] ?? 0;
  const until = column.starts[person + 1] ?? from;
  if (from === until) return NOT_APPLICABLE;
  if (column.kinds[from] === COUNTDOWN) {
    return { kind: 'countdown', from: column.instants[from]!, due: column.values[from]! };
  }
  const steps: number[] = [];
  for (let k = from; k < until; k++) {
    const kind = column.kinds[k]!;
    if (kind !== NUMBER && kind !== UNKNOWN) return stepsIn(column, from, until);
    steps.push(column.instants[k]!, kind === NUMBER ? column.values[k]! : NaN);
  }
  return { kind: 'numbers', steps };
}

function stepsIn(column: MeasureColumn, from: number, until: number): Steps {
  const values: Steps['values'][number][] = [];
  for (let k = from; k < until; k++) values.push(valueIn(column, k));
  return { kind: 'steps', at: Array.from(column.instants.subarray(from, until)), values };
}

function valueIn({ kinds, values, texts }: MeasureColumn, k: number): Steps['values'][number] {
  switch (kinds[k]) {
    case TRUTH:
      return values[k] === 1;
    case TEXT:
      return texts[values[k]!] ?? null;
    default:
      return null;
  }
}

export const packColumn = ({
  call,
  at,
  facts,
  texts,
  starts,
  instants,
  values,
  kinds,
}: MeasureColumn): Uint8Array<ArrayBuffer> => pack({ call, at, facts, texts }, [starts, instants, values, kinds]);

/** Null for bytes that are no such column. */
export function unpackColumn(packed: Uint8Array): MeasureColumn | null {
  const found = unpack(packed);
  if (found?.columns.length !== 4) return null;
  const about = found.about as Pick<MeasureColumn, 'call' | 'at' | 'facts' | 'texts'>;
  const [starts, instants, values, kinds] = found.columns as [Int32Array, Float64Array, Float64Array, Uint8Array];
  return { ...about, starts, instants, values, kinds };
}
