/**
 * A history as a few plain columns, to be kept beside its rows and loaded at once. A cache: it carries the ids it was made
 * from, and can be thrown away at any time.
 */
import type { Course } from '../course/course.ts';
import { History, type StoredGrade } from './history.ts';

export interface HistoryColumns {
  /** Person ids in the order of `counts`, and item ids that the codes speak of. */
  readonly people: readonly string[];
  readonly items: readonly string[];
  /** How many events each person has; their columns follow one another. */
  readonly counts: Int32Array;
  readonly times: Float64Array;
  readonly codes: Int32Array;
  readonly grades: readonly (readonly StoredGrade[])[];
}

export function toColumns(course: Pick<Course, 'people' | 'items'>, history: History): HistoryColumns {
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
    people: course.people.map((p) => p.id),
    items: course.items.map((i) => i.id),
    counts: Int32Array.from(history.people, (log) => log.length),
    times,
    codes,
    grades: history.people.map((log) => [...log.grades]),
  };
}

/** A history of the course from columns; people and items that are no longer in it are left out. */
export function fromColumns(
  course: Pick<Course, 'people' | 'personIndex' | 'itemIndex'>,
  columns: HistoryColumns,
): History {
  const history = new History(course);
  // Code of an item in the columns, shifted as in the log, to its code in the course; −1 for one that is gone.
  const itemCodes = Int32Array.from([0, ...columns.items.map((id) => (course.itemIndex.get(id) ?? -2) + 1)]);
  const same = columns.items.every((_, i) => itemCodes[i + 1] === i + 1);
  let at = 0;
  columns.people.forEach((id, p) => {
    const count = columns.counts[p]!;
    const index = course.personIndex.get(id);
    const from = at;
    at += count;
    if (index === undefined) return;
    const log = history.people[index]!;
    log.adopt(columns.times.slice(from, at), columns.codes.slice(from, at));
    if (!same) log.recode(itemCodes);
    for (const g of columns.grades[p]!) {
      const item = itemCodes[g.item + 1]! - 1;
      if (item >= 0) log.addGrade({ ...g, item });
    }
  });
  return history;
}

const MAGIC = 0x5a425331;

/** One block of bytes: a header in JSON, then the three columns. */
export function packColumns(columns: HistoryColumns): Uint8Array {
  const { people, items, grades, counts, times, codes } = columns;
  const header = new TextEncoder().encode(JSON.stringify({ people, items, grades, events: times.length }));
  // The columns begin at a multiple of eight, so that they can be read where they stand.
  const start = 8 + Math.ceil(header.length / 8) * 8;
  const bytes = new Uint8Array(start + times.byteLength + codes.byteLength + counts.byteLength);
  new Uint32Array(bytes.buffer, 0, 2).set([MAGIC, header.length]);
  bytes.set(header, 8);
  bytes.set(bytesOf(times), start);
  bytes.set(bytesOf(codes), start + times.byteLength);
  bytes.set(bytesOf(counts), start + times.byteLength + codes.byteLength);
  return bytes;
}

/** Null for bytes that are not such a block, as after a change of the format. */
export function unpackColumns(packed: Uint8Array): HistoryColumns | null {
  // A copy begins at an address that the columns can be read from.
  const bytes = packed.byteOffset % 8 === 0 ? packed : packed.slice();
  if (bytes.length < 8) return null;
  const [magic, headerLength] = new Uint32Array(bytes.buffer, bytes.byteOffset, 2);
  if (magic !== MAGIC || headerLength === undefined || 8 + headerLength > bytes.length) return null;
  let header: { people: string[]; items: string[]; grades: StoredGrade[][]; events: number };
  try {
    header = JSON.parse(new TextDecoder().decode(bytes.subarray(8, 8 + headerLength))) as typeof header;
  } catch {
    return null;
  }
  const start = bytes.byteOffset + 8 + Math.ceil(headerLength / 8) * 8;
  const { events } = header;
  if (start - bytes.byteOffset + events * 12 + header.people.length * 4 !== bytes.length) return null;
  return {
    ...header,
    times: new Float64Array(bytes.buffer, start, events),
    codes: new Int32Array(bytes.buffer, start + events * 8, events),
    counts: new Int32Array(bytes.buffer, start + events * 12, header.people.length),
  };
}

const bytesOf = (column: Float64Array | Int32Array): Uint8Array =>
  new Uint8Array(column.buffer, column.byteOffset, column.byteLength);
