/** A file of rows and columns (RFC 4180, with a comma, a semicolon or a tab). What cannot be trusted as a table is refused whole. */
import Papa from 'papaparse';
import { plural } from '../time/words.ts';
import { UnreadableFile } from './text.ts';

export const DELIMITERS = [',', ';', '\t'] as const;
export type Delimiter = (typeof DELIMITERS)[number];

export interface Table {
  readonly delimiter: Delimiter;
  readonly headers: readonly string[];
  /** Records below the header, each with its number in the file (the header is 1) and as many cells as there are headers. */
  readonly rows: readonly { readonly row: number; readonly cells: readonly string[] }[];
}

const MOST_COLUMNS = 2000;
const LONGEST_CELL = 1_000_000;

/** Reads a table. Throws `UnreadableFile`: no header, no rows, two headers alike, an unclosed quote, too many columns, a huge cell. */
export function readTable(text: string): Table {
  const parsed = Papa.parse<string[]>(text.replace(/^\uFEFF/, ''), {
    delimiter: delimiterOf(text),
    skipEmptyLines: false,
  });
  const quote = parsed.errors.find((e) => e.type === 'Quotes');
  if (quote) {
    throw new UnreadableFile(
      `Record ${(quote.row ?? 0) + 1} opens a quotation mark and does not close it. Fix it, then try again.`,
    );
  }
  const [first, ...below] = parsed.data;
  const headers = (first ?? []).map((h) => h.trim());
  while (headers.at(-1) === '') headers.pop();
  if (headers.every((h) => h === ''))
    throw new UnreadableFile('The first row has no column names. Add them, then try again.');
  if (headers.length > MOST_COLUMNS) {
    throw new UnreadableFile(`This file has ${plural(headers.length, 'column')}; at most ${MOST_COLUMNS} can be read.`);
  }
  const alike = headers.find((h, i) => h !== '' && headers.findIndex((o) => o.toLowerCase() === h.toLowerCase()) !== i);
  if (alike !== undefined) throw new UnreadableFile(`Two columns are called “${alike}”. Rename one, then try again.`);
  const rows = below.flatMap((cells, i) => {
    if (cells.some((c) => c.length > LONGEST_CELL))
      throw new UnreadableFile(`Record ${i + 2} has a cell that is too long.`);
    if (cells.every((c) => c.trim() === '')) return [];
    return [{ row: i + 2, cells: headers.map((_, n) => (cells[n] ?? '').trim()) }];
  });
  if (rows.length === 0) throw new UnreadableFile('This file has column names and no rows below them.');
  return { delimiter: parsed.meta.delimiter as Delimiter, headers, rows };
}

/** The delimiter that the first line has most of, outside quotation marks. */
function delimiterOf(text: string): Delimiter {
  const counts = new Map<string, number>(DELIMITERS.map((d) => [d, 0]));
  let quoted = false;
  for (const c of text) {
    if (c === '"') quoted = !quoted;
    else if (!quoted && (c === '\n' || c === '\r')) break;
    else if (!quoted && counts.has(c)) counts.set(c, counts.get(c)! + 1);
  }
  return DELIMITERS.reduce((best, d) => (counts.get(d)! > counts.get(best)! ? d : best));
}
