/**
 * A workbook (ECMA-376, SpreadsheetML): its sheets as rows of texts, dates as they read on the wall clock, computed cells by
 * their values. Anyone who opened the archive has bounded its parts; what is within them is bounded here.
 */
import { SaxesParser, type SaxesTagPlain } from 'saxes';
import type { WorkInParts } from '../../time/inParts.ts';
import type { TableLine, MergedCells } from './table.ts';
import { UnreadableFile } from './text.ts';

/** The parts of an archive by their names. */
export type ArchiveParts = ReadonlyMap<string, Uint8Array>;

export const WORKBOOK_PART = 'xl/workbook.xml';

export interface WorkbookSheet {
  readonly name: string;
  readonly isHidden: boolean;
  /** From the first row on, each as long as its last cell; a row that the file leaves out is empty. None of a hidden sheet. */
  readonly rows: readonly (readonly string[])[];
  /** Of each row, the places of cells that are numbers. */
  readonly numbers: readonly ReadonlySet<number>[];
  /** Merged cells of the first rows. */
  readonly merges: readonly MergedCells[];
}

/** The lines of a sheet, with its row numbers. */
export function* linesOf({ rows, numbers }: WorkbookSheet): Generator<TableLine> {
  for (const [i, cells] of rows.entries()) yield { line: i + 1, cells, numbers: numbers[i] };
}

const MOST_ROWS = 200_000;
const MOST_COLUMNS = 2000;
/** Cells of all sheets together. */
const MOST_CELLS = 2_000_000;
const MOST_TEXTS = 1_000_000;
/** Cells with those that a row leaves empty before its last one, and characters of all cells together. */
const MOST_PADDED = 6_000_000;
const MOST_CHARACTERS = 100_000_000;
/** Of the XML of a part. */
const MOST_NESTED = 64;
const MOST_ATTRIBUTES = 200;
const LONGEST_TEXT = 32_767;

/** The sheets in their order, read a piece at a time. Throws `UnreadableFile`. */
export function* readWorkbook(parts: ArchiveParts): WorkInParts<readonly WorkbookSheet[]> {
  const found: { name: string; relation: string; isHidden: boolean }[] = [];
  let from1904 = false;
  yield* walk(parts, WORKBOOK_PART, {
    open(name, a) {
      if (name === 'sheet')
        found.push({
          name: a['name'] ?? '',
          relation: relationOf(a),
          isHidden: (a['state'] ?? 'visible') !== 'visible',
        });
      if (name === 'workbookPr') from1904 = /^(1|true)$/.test(a['date1904'] ?? '');
    },
  });
  if (found.length === 0) throw new UnreadableFile('This workbook has no sheet. Export it again.');
  const targets = new Map<string, { type: string; part: string }>();
  yield* walk(parts, 'xl/_rels/workbook.xml.rels', {
    open(name, a) {
      if (name !== 'Relationship' || a['TargetMode'] === 'External') return;
      const target = a['Target'] ?? '';
      const part = target.startsWith('/') ? target.slice(1) : `xl/${target}`;
      targets.set(a['Id'] ?? '', { type: (a['Type'] ?? '').split('/').pop()!, part });
    },
  });
  const partOf = (type: string) => [...targets.values()].find((t) => t.type === type)?.part;
  const book: Book = {
    texts: yield* textsOf(parts, partOf('sharedStrings')),
    styles: yield* stylesOf(parts, partOf('styles')),
    from1904,
    cells: 0,
    padded: 0,
    characters: 0,
  };
  const sheets: WorkbookSheet[] = [];
  for (const { name, relation, isHidden } of found) {
    const read = isHidden ? NO_ROWS : yield* rowsOf(parts, targets.get(relation)?.part, book);
    sheets.push({ name, isHidden, ...read });
  }
  return sheets;
}

/** The id by which a sheet names its part, whatever prefix the namespace has. */
const relationOf = (a: Attributes): string =>
  Object.entries(a).find(([name]) => name !== 'id' && name.endsWith(':id'))?.[1] ?? '';

type Attributes = Readonly<Record<string, string>>;

interface Visitor {
  open?(name: string, attributes: Attributes): void;
  close?(name: string): void;
  text?(text: string): void;
}

/** Walks through the elements of a part; one that is not there is empty. Names come without their prefix. */
function* walk(parts: ArchiveParts, name: string | undefined, visitor: Visitor): WorkInParts<void> {
  const bytes = name === undefined ? undefined : parts.get(name);
  if (!bytes) return;
  const parser = new SaxesParser();
  parser.on('error', () => {
    throw new UnreadableFile('This workbook is damaged. Open it in your spreadsheet program and save it again.');
  });
  parser.on('doctype', () => {
    throw new UnreadableFile('This workbook defines entities of its own, which no spreadsheet program writes.');
  });
  const plain = (tag: string) => tag.slice(tag.indexOf(':') + 1);
  let [depth, attributes] = [0, 0];
  parser.on('opentagstart', () => {
    attributes = 0;
    if (++depth > MOST_NESTED)
      throw new UnreadableFile('This workbook is nested deeper than any spreadsheet writes it.');
  });
  parser.on('attribute', () => {
    if (++attributes > MOST_ATTRIBUTES)
      throw new UnreadableFile('This workbook has an element with too many attributes.');
  });
  parser.on('opentag', (tag: SaxesTagPlain) => visitor.open?.(plain(tag.name), tag.attributes));
  parser.on('closetag', (tag: SaxesTagPlain) => {
    depth--;
    visitor.close?.(plain(tag.name));
  });
  parser.on('text', (text) => visitor.text?.(text));
  parser.on('cdata', (text) => visitor.text?.(text));
  const decoder = new TextDecoder('utf-8');
  for (let i = 0; i < bytes.length; i += 1 << 16) {
    parser.write(decoder.decode(bytes.subarray(i, i + (1 << 16)), { stream: true }));
    yield;
  }
  parser.write(decoder.decode()).close();
}

function* textsOf(parts: ArchiveParts, part: string | undefined): WorkInParts<readonly string[]> {
  const texts: string[] = [];
  let current = '';
  let inText = false;
  let phonetic = 0;
  yield* walk(parts, part, {
    open(name) {
      if (name === 'si') current = '';
      if (name === 'rPh') phonetic++;
      inText = name === 't' && phonetic === 0;
    },
    close(name) {
      if (name === 'rPh') phonetic--;
      if (name === 't') inText = false;
      if (name !== 'si') return;
      if (texts.push(current) > MOST_TEXTS) throw new UnreadableFile('This workbook has too many texts.');
    },
    text(text) {
      if (inText) current = longer(current, text);
    },
  });
  return texts;
}

function longer(text: string, more: string): string {
  if (text.length + more.length > LONGEST_TEXT) throw new UnreadableFile('A cell of this workbook is too long.');
  return text + more;
}

/** How a cell format shows a number. */
type Style = 'date' | 'percent' | null;

/** What cell formats show (ECMA-376 part 1, 18.8.30: dates 14 to 22 and 45 to 47, percents 9 and 10 are built in). */
function* stylesOf(parts: ArchiveParts, part: string | undefined): WorkInParts<readonly Style[]> {
  const custom = new Map<string, string>();
  const formats: string[] = [];
  let inFormats = false;
  yield* walk(parts, part, {
    open(name, a) {
      if (name === 'numFmt') custom.set(a['numFmtId'] ?? '', a['formatCode'] ?? '');
      if (name === 'cellXfs') inFormats = true;
      if (name === 'xf' && inFormats) formats.push(a['numFmtId'] ?? '0');
    },
    close(name) {
      if (name === 'cellXfs') inFormats = false;
    },
  });
  return formats.map((id) => {
    const n = Number(id);
    const code = custom.get(id);
    if ((n >= 14 && n <= 22) || (n >= 45 && n <= 47) || (code !== undefined && showsDate(code))) return 'date';
    return n === 9 || n === 10 || (code !== undefined && showsPercent(code)) ? 'percent' : null;
  });
}

/** A format without what it quotes, escapes or puts in brackets, which are no signs of it; `[h]`, `[m]` and `[s]` are. */
function signsOf(code: string): string {
  let signs = '';
  for (let i = 0; i < code.length && i < 256; i++) {
    const c = code[i]!;
    if (c === '\\' || c === '_' || c === '*') i++;
    else if (c === '"') {
      const end = code.indexOf('"', i + 1);
      if (end < 0) return signs;
      i = end;
    } else if (c === '[') {
      const end = code.indexOf(']', i + 1);
      if (end < 0) return signs;
      if (/^\[[hms]/i.test(code.slice(i, i + 2))) signs += code.slice(i, end + 1);
      i = end;
    } else signs += c;
  }
  return signs;
}

const showsPercent = (code: string): boolean => signsOf(code).includes('%');

const showsDate = (code: string): boolean => {
  const signs = signsOf(code).toLowerCase();
  return !signs.includes('general') && /[dmyhs]/.test(signs);
};

interface Book {
  readonly texts: readonly string[];
  readonly styles: readonly Style[];
  readonly from1904: boolean;
  /** Read so far. */
  cells: number;
  padded: number;
  characters: number;
}

/** Formulas that reach out of the workbook, or run something. */
const CALLS_OUT = /\[\d+\]|\bWEBSERVICE\s*\(|\bDDE\w*\s*\(|\|\s*'|https?:|\bCALL\s*\(|\bREGISTER/i;

type SheetRows = Pick<WorkbookSheet, 'rows' | 'numbers' | 'merges'>;
const NO_ROWS: SheetRows = { rows: [], numbers: [], merges: [] };

/** Merged cells matter above a header and in it. */
const MERGES_WITHIN = 40;

function* rowsOf(parts: ArchiveParts, part: string | undefined, book: Book): WorkInParts<SheetRows> {
  const rows: string[][] = [];
  const numbers: Set<number>[] = [];
  const merges: MergedCells[] = [];
  let own = new Set<number>();
  let row: string[] = [];
  let at = -1;
  let column = 0;
  let type: string | undefined;
  let style = 0;
  let value = '';
  let formula = '';
  let into: 'value' | 'formula' | null = null;
  yield* walk(parts, part, {
    open(name, a) {
      if (name === 'row') {
        at = a['r'] === undefined ? at + 1 : Number(a['r']) - 1;
        if (!(at >= 0 && at < MOST_ROWS))
          throw new UnreadableFile(`This sheet has more than ${MOST_ROWS.toLocaleString('en-US')} rows.`);
        column = 0;
        row = [];
        own = new Set();
      } else if (name === 'mergeCell') {
        const merge = mergeOf(a['ref'] ?? '');
        if (merge && merge.line <= MERGES_WITHIN && merges.length < MOST_COLUMNS) merges.push(merge);
      } else if (name === 'c') {
        if (a['r'] !== undefined) column = columnOf(a['r']);
        if (!(column >= 0 && column < MOST_COLUMNS))
          throw new UnreadableFile(`This sheet has more than ${MOST_COLUMNS} columns.`);
        if (++book.cells > MOST_CELLS) throw new UnreadableFile('This workbook has too many cells.');
        [type, style, value, formula] = [a['t'], Number(a['s'] ?? 0), '', ''];
      } else into = name === 'v' || name === 't' ? 'value' : name === 'f' ? 'formula' : into;
    },
    text(text) {
      if (into === 'value') value = longer(value, text);
      if (into === 'formula') formula = longer(formula, text);
    },
    close(name) {
      if (name === 'v' || name === 't' || name === 'f') into = null;
      if (name === 'c') {
        if (CALLS_OUT.test(formula))
          throw new UnreadableFile('A formula of this sheet calls out of the workbook. Replace it by its value first.');
        if (isNumber(value, type, style, book)) own.add(column);
        const text = textOf(value, type, style, book);
        if ((book.characters += text.length) > MOST_CHARACTERS)
          throw new UnreadableFile('This workbook has too many characters.');
        row[column++] = text;
      }
      if (name !== 'row') return;
      for (; rows.length < at; numbers.push(NO_NUMBERS)) rows.push([]);
      if ((book.padded += row.length) > MOST_PADDED) throw new UnreadableFile('This workbook has too many cells.');
      rows[at] = Array.from(row, (cell) => cell ?? '');
      numbers[at] = own.size === 0 ? NO_NUMBERS : own;
    },
  });
  return { rows, numbers, merges };
}

const NO_NUMBERS = new Set<number>();

/** Whether a cell is a number or a percent; dates are none. */
const isNumber = (value: string, type: string | undefined, style: number, book: Book): boolean =>
  value !== '' && (type === undefined || type === 'n') && book.styles[style] !== 'date';

/** “B2:D2”. */
function mergeOf(reference: string): MergedCells | null {
  const [, a, line, b, last] = /^([A-Z]{1,3})(\d{1,7}):([A-Z]{1,3})(\d{1,7})$/.exec(reference) ?? [];
  if (line === undefined) return null;
  return { line: Number(line), lastLine: Number(last), from: columnOf(a!), to: columnOf(b!) };
}

/** "BC12" is column 54, counted from 0. */
function columnOf(reference: string): number {
  let column = 0;
  for (let i = 0; i < reference.length; i++) {
    const letter = reference.charCodeAt(i) - 64;
    if (letter < 1 || letter > 26) break;
    column = column * 26 + letter;
  }
  return column - 1;
}

function textOf(value: string, type: string | undefined, style: number, book: Book): string {
  if (value === '' || type === 'inlineStr' || type === 'str' || type === 'd' || type === 'e') return value;
  if (type === 'b') return value === '1' ? 'TRUE' : 'FALSE';
  if (type === 's') {
    const text = book.texts[Number(value)];
    if (text === undefined) throw new UnreadableFile('This workbook is damaged. Open it and save it again.');
    return text;
  }
  const n = Number(value);
  if (!Number.isFinite(n)) throw new UnreadableFile('This workbook is damaged. Open it and save it again.');
  const shows = book.styles[style] ?? null;
  if (shows === 'date') return wallClock(n, book.from1904);
  // Rounded to nine decimals: 0.57 is 57% and not 56.99999999999999%.
  return shows === 'percent' ? `${Math.round(n * 100 * 1e9) / 1e9}%` : String(n);
}

/** A day number as a local date, with its time where it has one; day 60 is one that never was (ECMA-376 part 1, 18.17.4.1). */
function wallClock(days: number, from1904: boolean): string {
  const epoch = from1904 ? 24_107 : days < 60 ? 25_568 : 25_569;
  const seconds = Math.round((days - epoch) * 86_400);
  const date = new Date(seconds * 1000);
  if (Number.isNaN(date.getTime())) return String(days);
  const text = date.toISOString();
  return seconds % 86_400 === 0 ? text.slice(0, 10) : text.slice(0, 19);
}
