/** Rows to the core's course and back: the one place that knows both. */
import {
  makeCourse,
  type Course,
  type CourseFile,
  type CourseParts,
  type Item,
  type Person,
} from '@zest-bell/core/course';
import type { CourseGuards } from '@zest-bell/core/rounds';
import type { Em, Tx } from '../platform/database/orm.ts';
import { keepFeedToken } from '../access/tokens.ts';
import { CourseRow, ItemRow, PersonRow } from './entity.ts';

export async function loadCourse(em: Em, row: CourseRow): Promise<Course> {
  const order = { orderBy: { position: 'asc' } } as const;
  const people = await em.find(PersonRow, { course: row.id }, order);
  const items = await em.find(ItemRow, { course: row.id }, order);
  return makeCourse({ ...fileOf(row), settings: row.settings, people: people.map(personOf), items: items.map(itemOf) });
}

const fileOf = (row: CourseRow): CourseFile => ({
  code: row.code,
  title: row.title,
  timeZone: row.timeZone,
  start: row.start,
  end: row.end,
  url: row.url ?? null,
  breaks: row.breaks,
  groupWeights: row.groupWeights ?? null,
  marks: row.marks,
  letters: row.letters ?? null,
});

export const personOf = (row: PersonRow): Person => ({
  id: row.key,
  firstName: row.firstName,
  lastName: row.lastName,
  email: row.email ?? null,
  role: row.role,
  section: row.section ?? null,
  active: row.active,
  enrolledAt: row.enrolledAt,
  paused: row.paused,
  contacts: row.contacts,
  fields: row.fields,
});

const itemOf = (row: ItemRow): Item => ({
  id: row.key,
  title: row.title,
  kind: row.kind,
  group: row.itemGroup ?? null,
  points: row.points == null ? null : Number(row.points),
  opensAt: row.opensAt ?? null,
  dueAt: row.dueAt ?? null,
  topics: row.topics,
  excused: row.excused,
  extensions: row.extensions,
  url: row.url ?? null,
});

/** Writes a new course with its roster and items. `tokenHash` is of the token with which it is fed, where there is one. */
export async function insertCourse(
  em: Tx,
  parts: CourseParts,
  {
    tokenHash,
    ...more
  }: Pick<CourseRow, 'sender'> & {
    readonly tokenHash?: string;
    readonly guards?: CourseGuards;
    readonly senderBy?: number;
    readonly senderConfirmed?: boolean;
    readonly daysConfirmed?: boolean;
  },
): Promise<number> {
  const { people, items, ...file } = parts;
  const row = em.create(CourseRow, { ...file, ...more });
  await em.flush();
  const course = row.id;
  if (tokenHash !== undefined) keepFeedToken(em, course, tokenHash);
  await em.insertMany(
    PersonRow,
    people.map((p, position) => ({ ...personRowOf(p), position, course })),
  );
  await em.insertMany(
    ItemRow,
    items.map((i, position) => ({ ...itemRowOf(i), position, course })),
  );
  return course;
}

/** As it is stored, but for its place. */
export const personRowOf = ({ id, ...person }: Person) => ({ ...person, key: id });
export const itemRowOf = ({ id, group, ...item }: Item) => ({ ...item, key: id, itemGroup: group });
