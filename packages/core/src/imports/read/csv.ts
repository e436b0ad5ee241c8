/** Tables as CSV (RFC 4180) that a spreadsheet opens without running any of it. */

/** The column with the reason why a row was refused; a file that has it is read as if it had not. */
export const REASON_HEADER = 'Why it was refused';

/** Texts that a spreadsheet would take for a formula, also behind blanks and in full width; numbers and a lone sign are none. */
const FORMULA = /^[\t\r\n ]*[=+\-@|%\uFF1D\uFF0B\uFF0D\uFF20]/;
const PLAIN = /^([+-]?\d+([.,]\d+)*%?|[-–+%])$/;

const guarded = (text: string): string => (FORMULA.test(text) && !PLAIN.test(text) ? `'${text}` : text);

export const csvCell = (value: string | number | null): string => written(value, guarded);

function written(value: string | number | null, guard: (text: string) => string): string {
  if (value === null) return '';
  if (typeof value === 'number') return String(value);
  const text = guard(value);
  return /[",;\t\r\n]|^ | $/.test(text) ? `"${text.replaceAll('"', '""')}"` : text;
}

/** How a text begins that a spreadsheet may run. A table that goes out guards these alone, so that reading can take the guard away. */
const RUNS = /^[=+\-@\t\r]/;
const guardedOut = (text: string): string => (RUNS.test(text) && !PLAIN.test(text) ? `'${text}` : text);

/** A text as it was before it went out: the guard is taken away again, and no other apostrophe. */
export const unguarded = (cell: string): string =>
  cell.startsWith("'") && guardedOut(cell.slice(1)) === cell ? cell.slice(1) : cell;

/** One record of a table that goes out, without its end. */
export const exportedRow = (row: readonly (string | number | null)[]): string =>
  row.map((cell) => written(cell, guardedOut)).join(',');

/** One record of what was refused, which comes from outside: guarded against more, without its end. */
export const csvRow = (row: readonly (string | number | null)[]): string => row.map(csvCell).join(',');

/** With a byte order mark, without which spreadsheets take it for another encoding. */
export const csvOf = (rows: readonly (readonly (string | number | null)[])[]): string =>
  `\uFEFF${rows.map((row) => `${csvRow(row)}\r\n`).join('')}`;
