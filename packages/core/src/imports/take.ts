/** Takes the rows of one kind of file into a draft: each row is new, changed, the same, or refused with its column and reason. */
import { RefusedRow } from './refused.ts';
import { REASON_HEADER } from './csv.ts';
import type { Outcome } from './facts.ts';
import type { TableKind } from './headers.ts';
import { Row, type Refuse, type Take, type Taking } from './row.ts';
import { takeActivity } from './takeActivity.ts';
import { takeAttendance } from './takeAttendance.ts';
import { takeGrades } from './takeGrades.ts';
import { takeItems } from './takeItems.ts';
import { takeColumns, takeRoster } from './takePeople.ts';

const TAKE: Readonly<Record<TableKind, Take>> = {
  roster: takeRoster,
  items: takeItems,
  columns: takeColumns,
  activity: takeActivity,
  gradebook: takeGrades,
  attendance: takeAttendance,
};

/** Rows that are taken before others get their turn. */
const PART = 500;

/** Takes the rows of a table; `refuse` is told of each row or cell that is not taken, `count` of each outcome. */
export function* takeRows(
  kind: TableKind,
  given: Taking,
  refuse: Refuse,
  count: (outcome: Outcome) => void,
): Generator<void, void> {
  const { table, fields } = given;
  const headerOf = new Map(fields.flatMap((field, i) => (field ? [[field, table.headers[i]!] as const] : [])));
  const orders = new Map(table.headers.map((h, i) => [h, given.dayOrders?.[h] ?? table.orders[i]!]));
  const others = table.headers.filter((h, i) => h !== '' && h !== REASON_HEADER && fields[i] === null);
  const places = new Map(table.headers.map((header, i) => [fields[i] ?? header, i]));
  const layout = { places, headerOf, orders };
  const take = TAKE[kind](given, others, refuse);
  for (const { row, cells } of table.rows) {
    if (row % PART === 0) yield;
    try {
      const formula = cells.findIndex(callsOut);
      if (formula >= 0) {
        const message = 'This cell holds a formula that runs something. Replace it by its value';
        throw new RefusedRow(table.headers[formula]!, 'formula', message);
      }
      for (const outcome of take(new Row(cells, layout), row)) count(outcome);
    } catch (error) {
      if (!(error instanceof RefusedRow)) throw error;
      refuse(row, error);
    }
  }
}

/** A spreadsheet would run these when the cell is opened in it again. */
const CALLS = /^\s*[=+\-@].*(\(|\|).*[!)]/;

const callsOut = (cell: string): boolean => cell.length > 3 && CALLS.test(cell);
