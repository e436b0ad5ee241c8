/** Tables as CSV (RFC 4180) that a spreadsheet opens without running any of it. */

/** The column that says why a row was refused; a file with it is read without it. */
export const REASON_HEADER = 'Why it was refused';

/** Texts that a spreadsheet would take for a formula, also behind blanks and in full width; numbers and a lone sign are none. */
const FORMULA = /^[\t\r\n ]*[=+\-@|%\uFF1D\uFF0B\uFF0D\uFF20]/;
const PLAIN = /^([+-]?\d+([.,]\d+)*%?|[-–+%])$/;

const guarded = (text: string): string => (FORMULA.test(text) && !PLAIN.test(text) ? `'${text}` : text);

export function csvCell(value: string | number | null): string {
  if (value === null) return '';
  if (typeof value === 'number') return String(value);
  const text = guarded(value);
  return /[",;\t\r\n]|^ | $/.test(text) ? `"${text.replaceAll('"', '""')}"` : text;
}

/** One record, without its end. */
export const csvRow = (row: readonly (string | number | null)[]): string => row.map(csvCell).join(',');

/** With a byte order mark, without which spreadsheets take it for another encoding. */
export const csvOf = (rows: readonly (readonly (string | number | null)[])[]): string =>
  `\uFEFF${rows.map((row) => `${csvRow(row)}\r\n`).join('')}`;
