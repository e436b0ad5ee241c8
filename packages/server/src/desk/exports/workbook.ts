/** A table as a workbook (XLSX), written as its rows come: real numbers and dates, texts as texts. */
import type { Progress } from './jobs.ts';
import { headingsOf, type CellKind, type ExportCell, type ExportColumn } from '@zest-bell/core/exports';
import { zoneOf } from '@zest-bell/core/time';

/** As much as a cell holds, and a sheet. */
const LONGEST = 32_767;
const MOST_ROWS = 1_048_575;

/** Of a column, in characters: as wide as its heading asks, and a text has room for a line. */
function widthOf(heading: string, kind: CellKind): number {
  const least = kind === 'text' ? 18 : 10;
  return Math.min(44, Math.max(least, heading.length + 3));
}

export async function writeWorkbook(
  to: Progress,
  table: { readonly name: string; readonly zone: string; readonly columns: readonly ExportColumn[] },
  batches: AsyncIterable<readonly (readonly ExportCell[])[]>,
): Promise<void> {
  // With the first workbook: most processes write none.
  const { default: ExcelJS } = await import('exceljs');
  const zone = zoneOf(table.zone);
  const book = new ExcelJS.stream.xlsx.WorkbookWriter({ filename: to.path, useStyles: true });
  const sheet = book.addWorksheet(table.name.replace(/[[\]:*?/\\]/g, '-').slice(0, 31), {
    // The heading stays.
    views: [{ state: 'frozen', ySplit: 1 }],
  });
  const headings = headingsOf(table);
  sheet.columns = headings.map((heading, i) => ({ width: widthOf(heading, table.columns[i]!.kind) }));
  const heading = sheet.addRow(headings);
  heading.font = { bold: true };
  heading.commit();
  let rows = 0;
  for await (const batch of batches) {
    to.signal.throwIfAborted();
    for (const cells of batch) {
      if (++rows > MOST_ROWS) break;
      const row = sheet.addRow(
        cells.map((cell, i) => {
          // A workbook knows no zones: it gets the wall clock, as if that were UTC.
          if (table.columns[i]!.kind === 'dateTime' && typeof cell === 'number') return new Date(zone.toWall(cell));
          return typeof cell === 'string' ? cell.slice(0, LONGEST) : cell;
        }),
      );
      table.columns.forEach((column, i) => {
        if (column.kind === 'dateTime') row.getCell(i + 1).numFmt = 'yyyy-mm-dd hh:mm:ss';
      });
      row.commit();
    }
    to.done(batch.length);
  }
  sheet.commit();
  await book.commit();
}
