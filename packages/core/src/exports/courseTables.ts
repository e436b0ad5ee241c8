/** What a course is, as tables that the reading of files takes in again: its people and its items. */
import type { Course } from '../course/course.ts';
import type { Item } from '../course/item.ts';
import type { Person } from '../course/person.ts';
import { dateTime, number, text, type ExportCell, type ExportTable } from './table.ts';

type CourseNames = Pick<Course, 'code' | 'timeZone'>;

/** Contacts by kind, the first of each; own columns as they are. */
export function peopleTable(course: CourseNames, people: readonly Person[]): ExportTable {
  const kinds = [...new Set(people.flatMap((p) => p.contacts.map((c) => c.kind)))].sort();
  const own = [...new Set(people.flatMap((p) => Object.keys(p.fields)))].sort();
  const isNumber = (field: string) => people.every((p) => typeof (p.fields[field] ?? 0) === 'number');
  return {
    name: `${course.code} people`,
    zone: course.timeZone,
    columns: [
      ...[text('ID'), text('First name'), text('Last name'), text('Email'), text('Role'), text('Section')],
      ...[text('Active'), dateTime('Enrolled at')],
      ...kinds.flatMap((kind) => [text(`contact ${kind}`), text(`contact ${kind} email`)]),
      ...own.map((field) => (isNumber(field) ? number(field) : text(field))),
    ],
    rows: people.map((p): ExportCell[] => {
      const contact = (kind: string) => p.contacts.find((c) => c.kind === kind);
      return [
        ...[p.id, p.firstName, p.lastName, p.email, p.role, p.section, p.active ? 'yes' : 'no', p.enrolledAt],
        ...kinds.flatMap((kind) => [contact(kind)?.name ?? null, contact(kind)?.email ?? null]),
        ...own.map((field) => p.fields[field] ?? null),
      ];
    }),
  };
}

export function itemsTable(course: CourseNames, items: readonly Item[]): ExportTable {
  return {
    name: `${course.code} items`,
    zone: course.timeZone,
    columns: [
      ...[text('ID'), text('Title'), text('Kind'), text('Group'), number('Points')],
      ...[dateTime('Opens at'), dateTime('Due at'), text('Topics'), text('URL')],
    ],
    rows: items.map((i): ExportCell[] => [
      ...[i.id, i.title, i.kind, i.group, i.points, i.opensAt, i.dueAt, i.topics.join('; '), i.url ?? null],
    ]),
  };
}
