/** Files merged into a scenario, with a report of what each brought (format `zest-bell/import@1`). */
import type { Instant } from '../time/instant.ts';
import { readDate } from './dates.ts';
import { Draft, type RefusedRow, type ScenarioJson } from './draft.ts';
import { fieldsOf, kindOf, type FieldName, type ImportKind } from './headers.ts';
import { readTable } from './table.ts';
import { takeRows } from './take.ts';
import { decodeText, type Encoding } from './text.ts';

export const IMPORT_FORMAT = 'zest-bell/import@1';

export interface ImportedFile {
  readonly file: string;
  readonly kind: ImportKind;
  readonly encoding: Encoding;
  readonly delimiter: string;
  /** Which field each column was read as; columns that are kept under their own names are not in it. */
  readonly columns: Readonly<Record<string, FieldName>>;
  /** Records below the header. */
  readonly read: number;
  readonly new: number;
  readonly changed: number;
  readonly same: number;
  /** `row` counts records, the header being 1. */
  readonly refused: readonly {
    readonly row: number;
    readonly column: string | null;
    readonly code: string;
    readonly message: string;
  }[];
}

export interface ImportOptions {
  /** What the files are; found from their headers unless given. */
  readonly kind?: ImportKind | undefined;
  /** Fields by header, before what is found. */
  readonly told?: Readonly<Record<string, FieldName>> | undefined;
  readonly asOf: Instant;
}

/** Merges one file into the draft, which is changed. Throws `UnreadableFile` where the file as a whole cannot be trusted. */
export function importFile(file: string, bytes: Uint8Array, draft: Draft, options: ImportOptions): ImportedFile {
  const { text, encoding } = decodeText(bytes);
  const table = readTable(text);
  const kind = options.kind ?? kindOf(table.headers, (header) => itemKindOf(draft, header));
  const fields = fieldsOf(table.headers, kind, options.told);
  const refused: ImportedFile['refused'][number][] = [];
  const outcomes = takeRows(kind, { draft, table, fields, asOf: options.asOf }, (row, why: RefusedRow) => {
    refused.push({ row, column: why.column, code: why.code, message: why.message });
  });
  const count = (outcome: 'new' | 'changed' | 'same') => outcomes.filter((o) => o === outcome).length;
  return {
    file,
    kind,
    encoding,
    delimiter: table.delimiter,
    columns: Object.fromEntries(fields.flatMap((field, i) => (field ? [[table.headers[i]!, field]] : []))),
    read: table.rows.length,
    new: count('new'),
    changed: count('changed'),
    same: count('same'),
    refused,
  };
}

export const draftOf = (scenario: ScenarioJson): Draft => new Draft(structuredClone(scenario));

function itemKindOf(draft: Draft, header: string): 'session' | 'item' | null {
  const date = readDate(header, draft.zone, 'unknown');
  const item =
    draft.item(header) ??
    draft.item(header.replace(/\s*[([].*$/, '')) ??
    (date.ok ? draft.sessionOn(date.at) : undefined);
  return item ? (item.kind === 'session' ? 'session' : 'item') : null;
}
