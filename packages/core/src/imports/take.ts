/** Takes the rows of one kind of file into a draft: each row is new, changed, the same, or refused with its column and reason. */
import { dayOrderOf } from './dates.ts';
import { RefusedRow } from './draft.ts';
import type { ImportKind } from './headers.ts';
import { Row, type Outcome, type Refuse, type Take, type Taking } from './row.ts';
import { takeActivity } from './takeActivity.ts';
import { takeAttendance } from './takeAttendance.ts';
import { takeGrades } from './takeGrades.ts';
import { takeItems } from './takeItems.ts';
import { takeColumns, takeRoster } from './takePeople.ts';

const TAKE: Readonly<Record<ImportKind, Take>> = {
  roster: takeRoster,
  items: takeItems,
  columns: takeColumns,
  activity: takeActivity,
  gradebook: takeGrades,
  attendance: takeAttendance,
};

/** Every outcome of a file, in its order; `refuse` is told of each row or cell that is not taken. */
export function takeRows(kind: ImportKind, given: Taking, refuse: Refuse): Outcome[] {
  const { table, fields } = given;
  const headerOf = new Map(fields.flatMap((field, i) => (field ? [[field, table.headers[i]!] as const] : [])));
  const orders = new Map(table.headers.map((h, i) => [h, dayOrderOf(table.rows.map((r) => r.cells[i]!))]));
  const others = table.headers.filter((h, i) => h !== '' && fields[i] === null);
  const take = TAKE[kind](given, others, refuse);
  const outcomes: Outcome[] = [];
  for (const { row, cells } of table.rows) {
    const byField = new Map(cells.map((cell, i) => [fields[i] ?? table.headers[i]!, cell]));
    try {
      outcomes.push(...take(new Row(byField, headerOf, orders), row));
    } catch (error) {
      if (!(error instanceof RefusedRow)) throw error;
      refuse(row, error);
    }
  }
  return outcomes;
}
