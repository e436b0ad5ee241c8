/** What a file is, by its content and never by its name alone. Archives come opened, as their parts: opening them is bounded elsewhere. */
import { bytesOf, textOf, UnreadableFile, type Bytes, type Encoding, type TextPieces } from './text.ts';
import { EmptyTable, readTable, tableOf, type TextTable } from './table.ts';
import { runWhole } from '../../time/inParts.ts';
import { linesOf, readWorkbook, WORKBOOK_PART, type ArchiveParts, type WorkbookSheet } from './workbook.ts';

export interface FileInput {
  readonly name: string;
  readonly content:
    | { readonly bytes: Uint8Array | Bytes }
    | { readonly parts: ArchiveParts }
    | { readonly sheets: readonly WorkbookSheet[] };
}

export type SourceText =
  | {
      readonly form: 'table';
      readonly table: TextTable;
      readonly encoding: Encoding | null;
      /** The sheet that is read, and all that could be. */
      readonly sheet: string | null;
      readonly sheets: readonly string[];
    }
  | { readonly form: 'json'; readonly text: string; readonly encoding: Encoding }
  | { readonly form: 'calendar'; readonly text: string; readonly encoding: Encoding }
  | { readonly form: 'archive'; readonly parts: ArchiveParts };

/** Whether bytes are those of a zip archive, which workbooks are too. */
export const isArchive = (bytes: Uint8Array): boolean =>
  bytes[0] === 0x50 && bytes[1] === 0x4b && (bytes[2] === 3 || bytes[2] === 5);

const extensionOf = (name: string): string => /\.([a-z0-9]+)$/i.exec(name)?.[1]?.toLowerCase() ?? '';
const TEXTS = new Set(['csv', 'tsv', 'txt', 'json', 'jsonl', 'ndjson', 'ics']);

/**
 * Reads what the file is. Throws `UnreadableFile`. `sheet`: of a workbook, by name; else its first with a table. `header`: the line of a
 * table's header, where somebody chose one.
 */
export function sourceOf(file: FileInput, sheet?: string, header?: number): SourceText {
  const extension = extensionOf(file.name);
  if (!('bytes' in file.content)) {
    if (TEXTS.has(extension))
      throw new UnreadableFile(
        `This file is called .${extension} and is a workbook or an archive. Give it its right name.`,
      );
    if ('sheets' in file.content) return sheetOf(file.content.sheets, sheet, header);
    const { parts } = file.content;
    if (parts.has(WORKBOOK_PART)) return sheetOf(runWhole(readWorkbook(parts)), sheet, header);
    if (extension === 'xlsx') throw new UnreadableFile('This file is called .xlsx and is no workbook.');
    return { form: 'archive', parts };
  }
  const bytes = file.content.bytes instanceof Uint8Array ? bytesOf(file.content.bytes) : file.content.bytes;
  const [a, b] = bytes.read(0, 2);
  if (a === 0xd0 && b === 0xcf)
    throw new UnreadableFile('This workbook is in an old format or has a password. Save it as .xlsx without one.');
  if (bytes.size === 0) throw new UnreadableFile('This file is empty.');
  const text = textOf(bytes);
  const { encoding } = text;
  if (extension === 'xlsx' || extension === 'zip')
    throw new UnreadableFile(`This file is called .${extension} and is a text. Give it its right name.`);
  const start = startOf(text);
  const form = /^BEGIN:VCALENDAR/i.test(start) ? 'calendar' : /^[{[]/.test(start) ? 'json' : 'table';
  if (form === 'table') return { form, table: readTable(text.pieces, header), encoding, sheet: null, sheets: [] };
  if (bytes.size > LARGEST_WHOLE)
    throw new UnreadableFile('A calendar, a scenario file or a list of statements has at most 64 MB. Split it.');
  return { form, text: [...text.pieces()].join('').trimStart(), encoding };
}

/** What is no table is read whole, up to so many bytes. */
const LARGEST_WHOLE = 64 << 20;

function startOf({ pieces }: TextPieces): string {
  for (const piece of pieces()) {
    const start = piece.trimStart();
    if (start !== '') return start.slice(0, 32);
  }
  return '';
}

function sheetOf(sheets: readonly WorkbookSheet[], wanted: string | undefined, header: number | undefined): SourceText {
  const shown = sheets.filter((s) => !s.isHidden);
  const names = shown.map((s) => s.name);
  const read = (name: string): SourceText => {
    const sheet = shown.find((s) => s.name === name)!;
    return {
      form: 'table',
      table: tableOf(() => linesOf(sheet), null, sheet.merges, header),
      encoding: null,
      sheet: name,
      sheets: names,
    };
  };
  if (wanted !== undefined) {
    if (!names.includes(wanted)) throw new UnreadableFile(`This workbook has no sheet “${wanted}”.`);
    return read(wanted);
  }
  let why: unknown = new UnreadableFile('This workbook has no sheet that can be read.');
  let cover: SourceText | null = null;
  for (const [i, name] of names.entries()) {
    try {
      const found = read(name);
      // A sheet of one column is a cover, if there is another.
      if (found.form !== 'table' || found.table.headers.length > 1) return found;
      cover ??= found;
    } catch (error) {
      if (!(error instanceof EmptyTable)) throw error;
      if (i === 0) why = error;
    }
  }
  if (cover) return cover;
  throw why;
}
