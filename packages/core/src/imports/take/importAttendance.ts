/** Attendance of one row a mark, by session or by date. */
import type { Outcome } from './facts.ts';
import { excuse, type FieldRow, type RowImporter } from './row.ts';
import { markCell, MARK_WORDS } from './sheetCells.ts';

export const importAttendance: RowImporter =
  ({ draft, asOf, isCorrection, person: personOf, item: itemOf }) =>
  (row: FieldRow): Outcome[] => {
    const person = personOf(row);
    row.note('person', () => `${person.firstName} ${person.lastName}`.trim());
    const at = row.instant('at', draft, asOf);
    const item = row.get('item') !== '' ? itemOf(row) : at === null ? undefined : draft.sessionOn(at);
    if (item === null) return [];
    if (!item) return row.refuse('at', 'unknownItem', 'The course has no session on this date');
    row.note('item', () => item.title);
    const mark = markCell(row.get('status'), row.column('status')!);
    if (mark === null) return [];
    row.note('status', () => MARK_WORDS[mark]);
    if (mark === 'excused') return [excuse(item, person)];
    const day = item.opensAt ?? item.dueAt;
    const when = at ?? (day ? Date.parse(day) : null);
    if (when === null)
      return row.refuse('status', 'noDate', `“${item.title}” has no day, so nobody knows when this was`);
    const event = { person: person.id, kind: mark, item: item.id, at: when };
    return [isCorrection ? draft.facts.removeMark(event) : draft.facts.setMark(event)];
  };
