/**
 * A file of rows and columns. Text is read in pieces (RFC 4180, with a comma, a semicolon or a tab), so that a long file never
 * is in memory as cells. What cannot be trusted as a table is refused whole, before a row of it is taken.
 */
import Papa from 'papaparse';
import { numberWords, plural } from '../../time/words.ts';
import { unguarded } from './csv.ts';
import { namesPerson, personField } from './headers.ts';
import { tidy } from './names.ts';
import { UnreadableFile } from './text.ts';

const DELIMITERS = [',', ';', '\t'] as const;
export type Delimiter = (typeof DELIMITERS)[number];

/** A record of a text, or a row of a sheet. */
export interface TableLine {
  /** Of the sheet, or of the text where the record begins; from 1. */
  readonly line: number;
  readonly cells: readonly string[];
  /** Cells that are numbers of a workbook, by their place: nothing about them is ambiguous. */
  readonly numbers?: ReadonlySet<number> | undefined;
}

/** One of the first records. The user can choose any of them as the header. */
export interface FirstRow {
  readonly line: number;
  readonly cells: readonly string[];
}

/** A record below the header, with its number (the header is 1) and as many cells as there are headers. */
export interface TableRow extends TableLine {
  readonly row: number;
}

export interface TextTable {
  /** Null for a sheet of a workbook. */
  readonly delimiter: Delimiter | null;
  readonly headers: readonly string[];
  /** The line of the header. */
  readonly headerLine: number;
  /** What is above the header, a text a line. */
  readonly titles: readonly string[];
  /** The text right above each header, or the one that it continues; empty if absent. */
  readonly groups: readonly string[];
  /** The line of the group row, or null without one. */
  readonly groupsLine: number | null;
  /** The first records, without blank ones. */
  readonly firstRows: readonly FirstRow[];
  /** Records that are not blank. Read anew each time it is walked through. */
  readonly rows: Iterable<TableRow>;
}

/** Cells that are one, by the lines and the places of the first and the last. */
export interface MergedCells {
  readonly line: number;
  readonly lastLine: number;
  readonly from: number;
  readonly to: number;
}

/** A table without a header or without rows: another sheet of the workbook may have them. */
export class EmptyTable extends UnreadableFile {}

const MOST_COLUMNS = 2000;
/** As much as a spreadsheet's cell holds. */
const LONGEST_CELL = 32_767;
/** The header is within the first records. */
const HEAD = 30;
/** Characters that are cut into records at once. */
const PIECE = 1 << 18;
/** Characters of one record. */
const LONGEST_RECORD = 64 * LONGEST_CELL;

/**
 * Reads a table from a text, or from its pieces. `header`: the line of the header, if somebody chose one.
 *
 * @throws `UnreadableFile`: no header, no rows, an unclosed quote, too many columns, or a huge cell.
 */
export function readTable(text: string | (() => Iterable<string>), header?: number): TextTable {
  const pieces = typeof text === 'string' ? () => [text.replace(/^\uFEFF/, '')] : text;
  const dialect = dialectOf(pieces());
  return tableOf(() => records(pieces(), dialect), dialect.delimiter, [], header);
}

/** A table of lines that can be walked through again and again. */
export function tableOf(
  walk: () => Iterable<TableLine>,
  delimiter: Delimiter | null,
  merges: readonly MergedCells[] = [],
  chosen?: number,
): TextTable {
  const { skip, ...head } = headOf(walk(), delimiter, merges, chosen);
  const { headers } = head;
  // Only a text file has guards: what a workbook holds is a text or a number on its own.
  const clean = delimiter === null ? tidyCell : (cell: string) => unguarded(tidyCell(cell));
  function* rows(): Generator<TableRow> {
    let record = 0;
    for (const { cells, line, numbers } of walk()) {
      record++;
      if (record <= skip + 1) continue;
      let [isBlank, isLong] = [true, false];
      for (const cell of cells) {
        if (isBlank && cell.trim() !== '') isBlank = false;
        if (cell.length > LONGEST_CELL) isLong = true;
      }
      if (isBlank) continue;
      if (isLong)
        throw new UnreadableFile(`Line ${line} has a cell of more than ${numberWords(LONGEST_CELL)} characters.`);
      const own = new Array<string>(headers.length);
      for (let n = 0; n < own.length; n++) own[n] = clean(cells[n] ?? '');
      yield { row: record - skip, line, cells: own, numbers };
    }
  }
  const table = { ...head, delimiter, rows: { [Symbol.iterator]: rows } };
  for (const _ of table.rows) return table;
  throw new EmptyTable('This file has column names and no rows below them.');
}

/** Blanks of all kinds around a cell. */
const tidyCell = (cell: string): string => cell.trim();

/** Throws `UnreadableFile` where two columns have one name, of those that `counts`. */
export function mustDiffer(headers: readonly string[], counts: (place: number) => boolean = () => true): void {
  const seen = new Map<string, number>();
  headers.forEach((header, place) => {
    if (header === '') return;
    const before = seen.get(header.toLowerCase());
    if (before !== undefined && (counts(place) || counts(before)))
      throw new UnreadableFile(`Two columns are called “${header}”. Rename one, then try again.`);
    seen.set(header.toLowerCase(), place);
  });
}

interface TableStart extends Omit<TextTable, 'delimiter' | 'rows'> {
  /** Records above the header. */
  readonly skip: number;
}

/**
 * The header is the first record with at least two names of which one is that of a person's name, id or address; one of exactly two gives
 * way to a later such record that has more ([F2]), and each to the next that names the person better ([F21]). In other tables it is the
 * first with several names. `chosen`: the line of the record that somebody chose instead.
 */
function headOf(
  walk: Iterable<TableLine>,
  delimiter: Delimiter | null,
  merges: readonly MergedCells[],
  chosen: number | undefined,
): TableStart {
  const first: TableLine[] = [];
  for (const record of walk) {
    first.push(record);
    if (first.length === HEAD) break;
  }
  const lines = first.map((line) => withMerged(line, merges, first));
  const { at: skip, groups: over } = chosenHeaderAt(lines, chosen) ?? headerAt(lines.map((l) => l.cells));
  const header = lines[skip];
  const clean = delimiter === null ? (h: string) => h : unguarded;
  const headers = (header?.cells ?? []).map((h) => tidy(clean(h).slice(0, LONGEST_CELL)));
  const widest = Math.max(0, ...first.slice(skip + 1).map(({ cells }) => lastFilled(cells) + 1));
  while (headers.at(-1) === '') headers.pop();
  if (!header || headers.every((h) => h === ''))
    throw new EmptyTable('The first row has no column names. Add them, then try again.');
  if (headers.length > MOST_COLUMNS) {
    throw new UnreadableFile(`This file has ${plural(headers.length, 'column')}; at most ${MOST_COLUMNS} can be read.`);
  }
  // Columns with data but no header text are kept, as unnamed columns.
  while (headers.length < Math.min(widest, MOST_COLUMNS)) headers.push('');
  const above = first.slice(0, skip).map(({ cells }, i) =>
    i === over
      ? ''
      : cells
          .map(tidy)
          .filter((c) => c !== '')
          .join(' '),
  );
  const titles = above.filter((text) => text !== '');
  const groupRow = first[over ?? skip - 1];
  const groups = groupsAbove(groupRow, headers, delimiter, merges);
  const firstRows = first.flatMap(({ line, cells }) => {
    const said = cells.slice(0, lastFilled(cells) + 1).map((cell) => tidy(clean(cell).slice(0, LONGEST_CELL)));
    return said.length === 0 ? [] : [{ line, cells: said }];
  });
  const groupsLine = groupRow && groups.some((g) => g !== '') ? groupRow.line : null;
  return { headers, skip, headerLine: header.line, titles, groups, groupsLine, firstRows };
}

/** The index of the chosen record, and of the next filled one above it; null if the choice is not among the first records. */
function chosenHeaderAt(lines: readonly TableLine[], chosen: number | undefined): ReturnType<typeof headerAt> | null {
  const at = lines.findIndex((l) => l.line === chosen && lastFilled(l.cells) >= 0);
  if (at < 0) return null;
  const groups = lines.findLastIndex((l, i) => i < at && lastFilled(l.cells) >= 0);
  return { at, groups: groups < 0 ? null : groups };
}

/** The index of the last filled cell, or −1. */
const lastFilled = (cells: readonly string[]): number => cells.findLastIndex((c) => c.trim() !== '');

/** A text that is merged over several lines is in each of them, in its first column. */
function withMerged(line: TableLine, merges: readonly MergedCells[], lines: readonly TableLine[]): TableLine {
  const over = merges.filter((m) => m.line < line.line && line.line <= m.lastLine);
  if (over.length === 0) return line;
  const cells = [...line.cells];
  for (const { line: first, from } of over) cells[from] ||= lines.find((l) => l.line === first)?.cells[from] ?? '';
  return { ...line, cells: Array.from(cells, (cell) => cell ?? '') };
}

/** The places of the header and of the last record that gave way to it; null where none did. */
function headerAt(records: readonly (readonly string[])[]): { readonly at: number; readonly groups: number | null } {
  let at = firstHeader(records);
  let groups: number | null = null;
  for (let next = nextFilled(records, at); next !== null; next = nextFilled(records, at)) {
    if (!namesBetter(records[next]!, records[at]!)) break;
    groups = at;
    at = next;
  }
  return { at, groups };
}

function nextFilled(records: readonly (readonly string[])[], at: number): number | null {
  const next = records.findIndex((cells, i) => i > at && cells.some((c) => c.trim() !== ''));
  return next < 0 ? null : next;
}

const filledIn = (cells: readonly string[]): number => cells.filter((c) => c.trim() !== '').length;

/** Whether a record could be a header as well, and names more fields of the person, or as many and has more texts ([F21]). */
function namesBetter(next: readonly string[], header: readonly string[]): boolean {
  if (filledIn(next) < 2 || !next.some(namesPerson) || !header.some(namesPerson)) return false;
  const texts = (cells: readonly string[]) => cells.map((c) => tidy(c).toLowerCase()).join('\n');
  if (texts(next).trim() === texts(header).trim()) return false;
  const fields = (cells: readonly string[]) => new Set(cells.map(personField).filter((f) => f !== null)).size;
  const more = fields(next) - fields(header);
  return more > 0 || (more === 0 && filledIn(next) > filledIn(header));
}

function firstHeader(records: readonly (readonly string[])[]): number {
  const named = records.map((cells) => cells.filter((c) => c.trim() !== '').length);
  const several = Math.max(
    0,
    records.findIndex((cells, i) => named[i]! > 1 || (named[i] === 0 && cells.length > 1)),
  );
  const ofPeople = records.flatMap((cells, i) => (named[i]! > 1 && cells.some(namesPerson) ? [i] : []));
  const [first] = ofPeople;
  if (first === undefined) return several;
  // The files of OneRoster begin with their header; “student” is a role in their rows.
  if (records[several]!.some((cell) => /^sourcedid$/i.test(cell))) return several;
  return (named[first] === 2 ? ofPeople.find((i) => named[i]! > 2) : undefined) ?? first;
}

/** Right above the header: a text counts for the columns of its merged cell, in a text file until the next text. */
function groupsAbove(
  above: TableLine | undefined,
  headers: readonly string[],
  delimiter: Delimiter | null,
  merges: readonly MergedCells[],
): string[] {
  if (!above) return headers.map(() => '');
  const texts = headers.map((_, i) => tidy(above.cells[i] ?? ''));
  // A lone text is a title of the whole sheet.
  if (texts.filter((t) => t !== '').length + merges.filter((m) => m.line === above.line).length < 2)
    return headers.map(() => '');
  let last = '';
  return texts.map((text, i) => {
    if (text !== '' || delimiter !== null) return (last = text || last);
    const merge = merges.find((m) => m.line === above.line && m.from <= i && i <= m.to);
    return merge ? texts[merge.from]! : '';
  });
}

/** How a text is cut into records and cells. */
interface CsvDialect {
  readonly delimiter: Delimiter;
  readonly newline: '\n' | '\r' | '\r\n';
}

/** The records of a text, a piece at a time. Throws `UnreadableFile` at a quotation mark that is not closed. */
function* records(pieces: Iterable<string>, dialect: CsvDialect): Generator<TableLine> {
  const parser = new Papa.Parser({ ...dialect, quoteChar: '"' });
  let record = 0;
  let line = 1;
  /** What is read of a record that goes on in the next piece. */
  let begun = '';
  function* linesOf(text: string, isLast: boolean): Generator<TableLine> {
    const { data, errors, meta } = parser.parse(text, 0, !isLast) as Papa.ParseResult<string[]>;
    const quote = errors.find((e) => e.type === 'Quotes');
    if (quote) {
      throw new UnreadableFile(
        `Record ${record + (quote.row ?? 0) + 1} opens a quotation mark and does not close it. Fix it, then try again.`,
      );
    }
    // Only a cell in quotation marks goes on over several lines.
    const mayBreak = text.includes('"');
    for (const cells of data) {
      yield { line, cells };
      line += 1;
      if (mayBreak) for (const cell of cells) line += breaksIn(cell);
    }
    record += data.length;
    begun = isLast ? '' : text.slice(meta.cursor);
    if (begun.length > LONGEST_RECORD) throw new UnreadableFile(`Record ${record + 1} is too long to be one record.`);
  }
  for (const piece of pieces) {
    for (let at = 0; at < piece.length; at += PIECE) yield* linesOf(begun + piece.slice(at, at + PIECE), false);
  }
  if (begun !== '') yield* linesOf(begun, true);
}

/** Lines that end within a cell. */
function breaksIn(cell: string): number {
  let n = 0;
  for (let at = cell.indexOf('\n'); at >= 0; at = cell.indexOf('\n', at + 1)) n++;
  return n;
}

/** The delimiter that the first line with more than one cell has most of, outside quotation marks, and how that line ends. */
function dialectOf(pieces: Iterable<string>): CsvDialect {
  let head = '';
  for (const piece of pieces) if ((head += piece).length >= PIECE) break;
  let newline: CsvDialect['newline'] | null = null;
  for (let from = 0, line = 0; line < HEAD && from < head.length; line++) {
    const counts = new Map<string, number>(DELIMITERS.map((d) => [d, 0]));
    let quoted = false;
    let at = from;
    for (; at < head.length; at++) {
      const c = head[at]!;
      if (c === '"') quoted = !quoted;
      else if (!quoted && (c === '\n' || c === '\r')) break;
      else if (!quoted && counts.has(c)) counts.set(c, counts.get(c)! + 1);
    }
    newline ??= head[at] === '\r' ? (head[at + 1] === '\n' ? '\r\n' : '\r') : '\n';
    const best = DELIMITERS.reduce((a, d) => (counts.get(d)! > counts.get(a)! ? d : a));
    if (counts.get(best)! > 0) return { delimiter: best, newline };
    from = at + (newline === '\r\n' ? 2 : 1);
  }
  return { delimiter: ',', newline: newline ?? '\n' };
}
