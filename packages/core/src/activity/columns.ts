/**
 * A history as a few plain columns, to be kept beside its rows and loaded at once. A cache: it carries the ids it was made
 * from, and can be thrown away at any time.
 */
import { History, type StoredGrade } from './history.ts';
import { pack, unpack } from './packed.ts';

export interface HistoryColumns {
  /** Person ids in the order of `counts`, and item ids, each at the key that the codes speak of. */
  readonly people: readonly string[];
  readonly items: readonly string[];
  /** How many events each person has; their columns follow one another. */
  readonly counts: Int32Array;
  readonly times: Float64Array;
  readonly codes: Int32Array;
  readonly grades: readonly (readonly StoredGrade[])[];
}

export function toColumns(history: History): HistoryColumns {
  const total = history.eventCount;
  const times = new Float64Array(total);
  const codes = new Int32Array(total);
  let at = 0;
  for (const log of history.people) {
    times.set(log.times.subarray(0, log.length), at);
    codes.set(log.codes.subarray(0, log.length), at);
    at += log.length;
  }
  return {
    people: history.personKeys.all,
    items: history.itemKeys.all,
    counts: Int32Array.from(history.people, (log) => log.length),
    times,
    codes,
    grades: history.people.map((log) => [...log.grades]),
  };
}

/** The history that columns were made from: people and items have their keys again. */
export function fromColumns(columns: HistoryColumns): History {
  const history = new History();
  for (const id of columns.items) history.itemKeys.of(id);
  let at = 0;
  columns.people.forEach((id, p) => {
    const from = at;
    at += columns.counts[p]!;
    history.adopt(id, columns.times.slice(from, at), columns.codes.slice(from, at), columns.grades[p]!);
  });
  return history;
}

/** Changes with the format: columns of an earlier one are made anew from the rows. */
const FORMAT = 2;

interface HistoryHeader {
  readonly format: number;
  readonly people: string[];
  readonly items: string[];
  readonly grades: StoredGrade[][];
}

export const packColumns = ({ people, items, grades, counts, times, codes }: HistoryColumns): Uint8Array<ArrayBuffer> =>
  pack({ format: FORMAT, people, items, grades }, [times, codes, counts]);

/** Null for bytes that are not such a block, as after a change of the format. */
export function unpackColumns(packed: Uint8Array): HistoryColumns | null {
  const found = unpack(packed);
  const about = found?.about as HistoryHeader | undefined;
  if (!found || about?.format !== FORMAT) return null;
  const [times, codes, counts] = found.columns as [Float64Array, Int32Array, Int32Array];
  const { people, items, grades } = about;
  if (counts.length !== people.length || counts.reduce((a, b) => a + b, 0) !== times.length) return null;
  return { people, items, grades, counts, times, codes };
}
