/**
 * A file of rows and columns. Text is read in pieces (RFC 4180, with a comma, a semicolon or a tab), so that a long file never
 * stands in memory as cells. What cannot be trusted as a table is refused whole, before a row of it is taken.
 */
import Papa from 'papaparse';
import { plural } from '../time/words.ts';
import { DayOrders, type DayOrder } from './dates.ts';
import { UnreadableFile } from './text.ts';

export const DELIMITERS = [',', ';', '\t'] as const;
export type Delimiter = (typeof DELIMITERS)[number];

/** A record below the header, with its number (the header is 1) and as many cells as there are headers. */
export interface TableRow {
  readonly row: number;
  readonly cells: readonly string[];
}

export interface Table {
  /** Null for a sheet of a workbook. */
  readonly delimiter: Delimiter | null;
  readonly headers: readonly string[];
  /** Records that are not blank. */
  readonly count: number;
  /** In which order each column writes day and month, as far as its dates prove it. */
  readonly orders: readonly DayOrder[];
  /** Read anew each time it is walked through. */
  readonly rows: Iterable<TableRow>;
}

/** A table without a header or without rows: another sheet of the workbook may have them. */
export class EmptyTable extends UnreadableFile {}

const MOST_COLUMNS = 2000;
const LONGEST_CELL = 1_000_000;
/** The header stands within the first records. */
const HEAD = 15;
/** Characters that are cut into records at once. */
const PIECE = 1 << 18;

/** Reads a table. Throws `UnreadableFile`: no header, no rows, two headers alike, an unclosed quote, too many columns, a huge cell. */
export function readTable(text: string): Table {
  const plain = text.replace(/^\uFEFF/, '');
  const delimiter = delimiterOf(plain);
  return tableOf(() => records(plain, delimiter), delimiter);
}

/** A table of records that can be walked through again and again. */
export function tableOf(walk: () => Iterable<readonly string[]>, delimiter: Delimiter | null): Table {
  const { headers, skip } = headOf(walk());
  function* rows(): Generator<TableRow> {
    let record = 0;
    for (const cells of walk()) {
      record++;
      if (record <= skip + 1 || cells.every((c) => c.trim() === '')) continue;
      if (cells.some((c) => c.length > LONGEST_CELL))
        throw new UnreadableFile(`Record ${record} has a cell that is too long.`);
      yield { row: record - skip, cells: headers.map((_, n) => (cells[n] ?? '').trim()) };
    }
  }
  let count = 0;
  const orders = headers.map(() => new DayOrders());
  for (const { cells } of rows()) {
    count++;
    cells.forEach((cell, i) => orders[i]!.see(cell));
  }
  if (count === 0) throw new EmptyTable('This file has column names and no rows below them.');
  return { delimiter, headers, count, orders: orders.map((o) => o.order), rows: { [Symbol.iterator]: rows } };
}

/** The header is the first record with several names; titles of one cell, and lines with nothing, may stand above it. */
function headOf(walk: Iterable<readonly string[]>): { readonly headers: readonly string[]; readonly skip: number } {
  const first: (readonly string[])[] = [];
  for (const record of walk) {
    first.push(record);
    if (first.length === HEAD) break;
  }
  const named = (record: readonly string[]) => record.filter((c) => c.trim() !== '').length;
  const found = first.findIndex((record) => named(record) > 1 || (named(record) === 0 && record.length > 1));
  const skip = Math.max(0, found);
  const headers = (first[skip] ?? []).map((h) => h.replace(/\s+/g, ' ').trim());
  while (headers.at(-1) === '') headers.pop();
  if (headers.every((h) => h === ''))
    throw new EmptyTable('The first row has no column names. Add them, then try again.');
  if (headers.length > MOST_COLUMNS) {
    throw new UnreadableFile(`This file has ${plural(headers.length, 'column')}; at most ${MOST_COLUMNS} can be read.`);
  }
  const seen = new Set<string>();
  for (const header of headers) {
    const plain = header.toLowerCase();
    if (header !== '' && seen.has(plain))
      throw new UnreadableFile(`Two columns are called “${header}”. Rename one, then try again.`);
    seen.add(plain);
  }
  return { headers, skip };
}

/** The records of a text, a piece at a time. Throws `UnreadableFile` at a quotation mark that is not closed. */
function* records(text: string, delimiter: Delimiter): Generator<readonly string[]> {
  let piece: Papa.ParseResult<string[]> | null = null;
  let parser: Papa.Parser | null = null;
  let done = false;
  let record = 0;
  let empty = 0;
  const config: Papa.ParseLocalConfig<string[], never> & { readonly chunkSize: number } = {
    delimiter,
    skipEmptyLines: false,
    chunkSize: PIECE,
    chunk(results, p) {
      piece = results;
      parser = p;
      p.pause();
    },
    complete: () => (done = true),
  };
  Papa.parse(text, config as unknown as Papa.ParseConfig<string[]>);
  for (;;) {
    const now = piece as Papa.ParseResult<string[]> | null;
    piece = null;
    const quote = now?.errors.find((e) => e.type === 'Quotes');
    if (quote) {
      throw new UnreadableFile(
        `Record ${record + (quote.row ?? 0) + 1} opens a quotation mark and does not close it. Fix it, then try again.`,
      );
    }
    empty = now && now.data.length === 0 ? empty + PIECE : 0;
    if (empty > 2 * LONGEST_CELL) throw new UnreadableFile(`Record ${record + 1} is too long to be one record.`);
    yield* now?.data ?? [];
    record += now?.data.length ?? 0;
    if (done || !parser) return;
    (parser as Papa.Parser).resume();
    if (piece === null) return;
  }
}

/** The delimiter that the first line with more than one cell has most of, outside quotation marks. */
function delimiterOf(text: string): Delimiter {
  for (let from = 0, line = 0; line < HEAD && from < text.length; line++) {
    const counts = new Map<string, number>(DELIMITERS.map((d) => [d, 0]));
    let quoted = false;
    let at = from;
    for (; at < text.length; at++) {
      const c = text[at]!;
      if (c === '"') quoted = !quoted;
      else if (!quoted && (c === '\n' || c === '\r')) break;
      else if (!quoted && counts.has(c)) counts.set(c, counts.get(c)! + 1);
    }
    const best = DELIMITERS.reduce((a, d) => (counts.get(d)! > counts.get(a)! ? d : a));
    if (counts.get(best)! > 0) return best;
    from = at + 1;
  }
  return ',';
}
