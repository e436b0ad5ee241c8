/** A table as a workbook (XLSX) with real numbers and dates; a text is a text, whatever it begins with. */
import type { Cell, SheetData } from 'write-excel-file/browser';
import { fileNameOf, headingsOf, type ExportCell, type ExportColumn, type ExportTable } from '@zest-bell/core/exports';
import { zoneOf } from '@zest-bell/core/time';

/** As much as a cell holds. */
const LONGEST = 32_767;
/** Names of sheets are short, and without these. */
export const sheetName = (name: string): string => name.replace(/[[\]:*?/\\]/g, '-').slice(0, 31) || 'Table';

export function sheetOf(table: ExportTable): SheetData {
  const zone = zoneOf(table.zone);
  const cell = (value: ExportCell, { kind }: ExportColumn): Cell => {
    if (value === null) return null;
    // A workbook knows no zones: it gets the wall clock, as if that were UTC.
    if (kind === 'dateTime' && typeof value === 'number')
      return { type: Date, value: new Date(zone.toWall(value)), format: 'yyyy-mm-dd hh:mm:ss' };
    if (kind === 'date' && typeof value === 'string')
      return { type: Date, value: new Date(`${value}T00:00:00Z`), format: 'yyyy-mm-dd' };
    if (typeof value === 'number') return { type: Number, value };
    return { type: String, value: value.slice(0, LONGEST) };
  };
  return [
    headingsOf(table).map((value) => ({ type: String, value, fontWeight: 'bold' })),
    ...Array.from(table.rows, (row) => row.map((value, i) => cell(value, table.columns[i]!))),
  ];
}

/** The library comes with the first workbook. */
export async function workbookOf(table: ExportTable): Promise<{ readonly name: string; readonly bytes: Blob }> {
  const { default: write } = await import('write-excel-file/browser');
  const bytes = await write(sheetOf(table), { sheet: sheetName(table.name), stickyRowsCount: 1 }).toBlob();
  return { name: `${fileNameOf(table.name)}.xlsx`, bytes };
}
