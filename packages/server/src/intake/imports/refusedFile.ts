/** Refused rows as a file of the same columns with one more that says why, to be mended and brought again. */
import { csvCell, csvOf, csvRow, REASON_HEADER, withoutReason, type ReadFile } from '@zest-bell/core/imports';

/** Null where nothing is refused. */
export function refusedFile({ refused, refusedRows, headers }: ReadFile): string | null {
  if (refused.length === 0) return null;
  if (headers.length === 0) {
    const lines = refused.map((r) => [r.part ?? '', r.row, r.column ?? '', r.message]);
    return csvOf([['File', 'Row', 'Column', REASON_HEADER], ...lines]);
  }
  const why = new Map<number, string[]>();
  for (const { row, column, message } of refused) {
    const said = column === null ? message : `${column}: ${message}`;
    const known = why.get(row);
    if (known) known.push(said);
    else why.set(row, [said]);
  }
  const rows = [...refusedRows].toSorted(([a], [b]) => a - b);
  const lines = rows.map(([row, cells]) => `${cells},${csvCell(why.get(row)!.join('; '))}\r\n`);
  return `${csvOf([])}${csvRow([...withoutReason(headers, headers), REASON_HEADER])}\r\n${lines.join('')}`;
}
