/** What reading a file is told, and what it says of it (format `zest-bell/import@1`). */
import type { ItemKind } from '../../course/item.ts';
import type { Instant } from '../../time/instant.ts';
import type { DayOrder } from '../read/dates.ts';
import type { Choices } from './draft.ts';
import type { FieldName, ImportKind } from '../read/headers.ts';
import type { Doubt } from './doubts.ts';
import type { FirstRow } from '../read/table.ts';
import type { ColumnMeaning, ReasonLeftOut } from './meanings.ts';
import type { Question } from '../read/refused.ts';
import type { ReadCell, SheetTally } from './importSheet.ts';
import type { Encoding } from '../read/text.ts';
import type { VerbMeaning } from './xapi.ts';

export const IMPORT_FORMAT = 'zest-bell/import@1';

export interface RefusedLine {
  /** Counts records, the header being 1; lines of JSON lines. */
  readonly row: number;
  /** The row of the sheet, or the line of the text at which the record begins; from 1, titles included. */
  readonly line: number;
  readonly column: string | null;
  readonly code: string;
  readonly message: string;
  /** Which file of an archive. */
  readonly part?: string;
}

export interface ImportedFile {
  readonly file: string;
  readonly kind: ImportKind;
  /** Null for workbooks and archives. */
  readonly encoding: Encoding | null;
  readonly delimiter: string | null;
  readonly sheet: string | null;
  /** Which field each column was read as; columns that are kept under their own names are not in it. */
  readonly columns: Readonly<Record<string, FieldName>>;
  /** Records below the header. */
  readonly read: number;
  readonly new: number;
  readonly changed: number;
  readonly same: number;
  /** Rows that name nobody; only where there are some. */
  readonly leftOut?: number;
  /** Students who were erased on request, and whom it named. */
  readonly erased?: number;
  /** Of what was offered; only where there is some. */
  readonly added?: { readonly people: number; readonly items: number };
  readonly refused: readonly RefusedLine[];
  /** Signs that the file was not read as its author meant it. */
  readonly doubts: readonly Doubt[];
}

/** What a column of a table is, for a screen. */
export interface ReadColumn {
  readonly as: ColumnMeaning['as'] | 'fact';
  readonly field: FieldName | null;
  /** The title of the item that it is about. */
  readonly item: string | null;
  /** The course has no such item yet. */
  readonly isNew: boolean;
  /** What a new item would be; null for a known one, and where the column is about none. */
  readonly itemKind: ItemKind | null;
  readonly points: number | null;
  readonly leftOut: ReasonLeftOut | null;
  /** How many of its cells are filled. */
  readonly filled: number;
  /** The group that its new item gets; null for none. */
  readonly group: string | null;
  /** The item has no points possible, so its scores have no percent ([F24]). */
  readonly asksPoints: boolean;
}

/** What a screen shows besides. */
export interface ReadFile extends Omit<ImportedFile, 'refused'> {
  readonly sheets: readonly string[];
  readonly headers: readonly string[];
  readonly meanings: readonly ReadColumn[];
  /** With what the cell says, where it is one cell. */
  readonly refused: readonly (RefusedLine & { readonly said: string | null })[];
  /** Lines of CSV, by the number of the row: the cells of those that are refused, wholly or in part. */
  readonly refusedRows: ReadonlyMap<number, string>;
  /** The first rows, as they stand in the file and as they are read. */
  readonly sample: readonly { readonly line: number; readonly cells: readonly ReadCell[] }[];
  readonly titles: readonly string[];
  /** The lines of the header and of the group row, and the first rows, any of which can be chosen as the header. */
  readonly headerLine: number | null;
  readonly groupsLine: number | null;
  readonly firstRows: readonly FirstRow[];
  /** What the course lacks, and could be added. */
  readonly offered: { readonly people: number; readonly items: number };
  /** Fields of people that differ from what is known, and stay as they are known. */
  readonly differs: number;
  readonly tally: SheetTally | null;
  /** A column holds letters for grades. */
  readonly hasLetters: boolean;
  /** A list of ages counts back from the file's own instant. */
  readonly hasAges: boolean;
  /** Columns behind this one are another table, which is not read; null if absent. */
  readonly cut: number | null;
  /** In which order each column writes day and month, where it has such dates. */
  readonly dayOrders: Readonly<Record<string, DayOrder>>;
  /** What could be asked so that more of it can be taken, each once. */
  readonly questions: readonly Question[];
  /** Active students whom a roster does not name. */
  readonly missing: readonly string[];
}

export interface ImportOptions {
  /** What the file is; found from its content unless given. */
  readonly kind?: ImportKind | undefined;
  /** Fields by header, before what is found; an empty one keeps a column as it is. */
  readonly told?: Readonly<Record<string, FieldName>> | undefined;
  readonly asOf: Instant;
  /** Of a workbook. */
  readonly sheet?: string | undefined;
  /** The line that somebody chose as the header of a table. */
  readonly header?: number | undefined;
  /** Points possible that somebody typed, by the header of a column. */
  readonly outOf?: Readonly<Record<string, number>> | undefined;
  readonly dayOrders?: Readonly<Record<string, DayOrder>> | undefined;
  readonly choices?: Choices | undefined;
  /** Meanings of xAPI verbs of the course’s own. */
  readonly verbs?: Readonly<Record<string, VerbMeaning>> | undefined;
  /** Cells that somebody mended before the file is taken: by the number of their row and their header. */
  readonly mended?: Readonly<Record<string, Readonly<Record<string, string>>>> | undefined;
  /** What the course lacks and the file brings: added where it is so. */
  readonly add?: { readonly people?: boolean | undefined; readonly items?: boolean | undefined } | undefined;
  /** What the file says is wrong and is taken back; for activity, gradebooks, attendance and lists of last visits. */
  readonly isCorrection?: boolean | undefined;
}
