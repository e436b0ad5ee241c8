/** The gradebook as it is shown, a student a row: points by item, as the reading of files takes them in again. */
import type { Course } from '../course/course.ts';
import type { Gradebook } from '../lookout/gradebook.ts';
import { number, text, type ExportCell, type ExportTable } from './table.ts';

/** `rows` and `columns` are places in the gradebook, in the order in which they are shown. */
export function gradebookTable(
  course: Course,
  book: Gradebook,
  rows: readonly number[],
  columns: readonly number[],
): ExportTable {
  const items = columns.flatMap((c) => course.items[course.itemIndex.get(book.about.items[c]!) ?? -1] ?? []);
  const sameTitle = (title: string) => items.filter((i) => i.title.toLowerCase() === title.toLowerCase()).length > 1;
  return {
    name: `${course.code} gradebook`,
    zone: course.timeZone,
    columns: [
      ...[text('ID'), text('First name'), text('Last name'), text('Section')],
      // An item is named by its id where its title is ambiguous.
      ...items.map((i) => number(sameTitle(i.title) ? i.id : i.points === null ? i.title : `${i.title} (${i.points})`)),
      number('Course grade %'),
    ],
    rows: rows.map((row): ExportCell[] => {
      const p = course.people[course.personIndex.get(book.about.students[row]!) ?? -1];
      return [
        ...[book.about.students[row]!, p?.firstName ?? null, p?.lastName ?? null, p?.section ?? null],
        ...columns.map((c): ExportCell => {
          const { state, points } = book.cell(row, c);
          return state === 'excused' ? 'EX' : points;
        }),
        book.courseGrade(row),
      ];
    }),
  };
}
