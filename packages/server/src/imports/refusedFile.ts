/** Refused rows as a file of the same columns with one more that says why, to be mended and brought again. */
import { csvOf, REASON_HEADER, sourceOf, type FileInput, type ReadFile } from '@zest-bell/core';

/** Null where nothing is refused. */
export function refusedFile(report: ReadFile, file: FileInput): string | null {
  const why = new Map<number, string[]>();
  for (const { row, column, message } of report.refused) {
    const said = column === null ? message : `${column}: ${message}`;
    why.set(row, [...(why.get(row) ?? []), said]);
  }
  if (why.size === 0) return null;
  const source = sourceOf(file, report.sheet ?? undefined);
  if (source.form !== 'table') {
    const lines = report.refused.map((r) => [r.part ?? '', r.row, r.column ?? '', r.message]);
    return csvOf([['File', 'Row', 'Column', REASON_HEADER], ...lines]);
  }
  const columns = source.table.headers.flatMap((h, i) => (h === REASON_HEADER ? [] : [i]));
  const rows: string[][] = [];
  for (const { row, cells } of source.table.rows) {
    const said = why.get(row);
    if (said) rows.push([...columns.map((i) => cells[i]!), said.join('; ')]);
  }
  return csvOf([[...columns.map((i) => source.table.headers[i]!), REASON_HEADER], ...rows]);
}
