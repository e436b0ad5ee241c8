/** The table of students as it is shown: the same columns, rows and order. */
import type { Course } from '../course/course.ts';
import { columnTitle, unitOf, type LookoutColumn, type RuleNames } from '../lookout/columns.ts';
import type { Value } from '../measures/values/value.ts';
import { number, text, type ExportCell, type ExportTable } from './table.ts';

export interface ShownStudents {
  /** Ids in the order shown. */
  readonly students: readonly string[];
  readonly columns: readonly LookoutColumn[];
  /** The value of a column for the student at that place. */
  readonly value: (column: number, place: number) => Value;
  readonly rules: RuleNames;
}

const TEXTS: ReadonlySet<string> = new Set(['text', 'yesNo']);

export function lookoutTable(course: Course, { students, columns, value, rules }: ShownStudents): ExportTable {
  const titles = apart(columns.map((c) => `${columnTitle(c, course, rules)}${unitOf(c) === 'percent' ? ' %' : ''}`));
  return {
    name: `${course.code} Students`,
    zone: course.timeZone,
    columns: [
      ...[text('ID'), text('First name'), text('Last name'), text('Email'), text('Section')],
      ...columns.map((c, i) => (TEXTS.has(unitOf(c)) ? text(titles[i]!) : number(titles[i]!))),
    ],
    rows: students.map((id, place): ExportCell[] => {
      const p = course.people[course.personIndex.get(id) ?? -1];
      return [
        ...[id, p?.firstName ?? null, p?.lastName ?? null, p?.email ?? null, p?.section ?? null],
        ...columns.map((_, column) => cellOf(value(column, place))),
      ];
    }),
  };
}

const cellOf = (value: Value): ExportCell => (typeof value === 'boolean' ? (value ? 'yes' : 'no') : value);

/** Two columns of one title are told apart. */
function apart(titles: readonly string[]): string[] {
  const seen = new Map<string, number>();
  return titles.map((title) => {
    const n = (seen.get(title) ?? 0) + 1;
    seen.set(title, n);
    return n === 1 ? title : `${title} (${n})`;
  });
}
