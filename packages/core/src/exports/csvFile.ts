/** A table as CSV (RFC 4180): its records, piece by piece. */
import { exportedRow } from '../imports/read/csv.ts';
import { cellText, headingsOf, type ExportTable } from './table.ts';

export interface CsvOptions {
  /** A byte order mark before it, which some spreadsheets need to know that it is UTF-8. */
  readonly bom?: boolean;
}

/** A piece a record, its end included. */
export function* csvPieces(table: ExportTable, { bom = false }: CsvOptions = {}): Generator<string> {
  yield `${bom ? '\uFEFF' : ''}${exportedRow(headingsOf(table))}\r\n`;
  for (const row of table.rows) {
    const cells = row.map((cell, i) => cellText(cell, table.columns[i]!, table.zone));
    yield `${exportedRow(cells)}\r\n`;
  }
}

export const csvText = (table: ExportTable, options?: CsvOptions): string => [...csvPieces(table, options)].join('');
