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
import { inSlices } from '../platform/database/query.ts';
import { keepFeedToken } from '../access/tokens.ts';
import { afterOthers } from '../platform/turns/inTurns.ts';
import { CourseRow, ItemRow, PersonRow, personHolds, itemHolds } from './entity.ts';
import { insertManyRows } from '../platform/database/writing.ts';
import { withNewCourse } from './lock.ts';

export async function loadCourse(em: Em, row: CourseRow): Promise<Course> {
  const people = await entriesOf(row.id, personOf, (where, order) => em.find(PersonRow, where, order));
  const items = await entriesOf(row.id, itemOf, (where, order) => em.find(ItemRow, where, order));
  const formerItems = row.formerItems ?? {};
  return makeCourse({ ...fileOf(row), settings: row.settings, people, items, formerItems });
}

/** How many people or items are read or written in one step. */
const ENTRIES_A_STEP = 200;
const A_STEP = { orderBy: { key: 'asc' }, limit: ENTRIES_A_STEP, disableIdentityMap: true } as const;

/** The entries of a course in their order. They are read in steps, between which the thread does whatever else waits. */
async function entriesOf<Row extends { readonly key: string; readonly position: number }, Entry>(
  course: number,
  entryOf: (row: Row) => Entry,
  find: (where: { course: number; key?: { $gt: string } }, order: typeof A_STEP) => Promise<Row[]>,
): Promise<Entry[]> {
  const rows: Row[] = [];
  for (;;) {
    const last = rows.at(-1);
    const step = await afterOthers(() => find({ course, ...(last ? { key: { $gt: last.key } } : {}) }, A_STEP));
    rows.push(...step);
    if (step.length < ENTRIES_A_STEP) break;
  }
  return rows.sort((a, b) => a.position - b.position).map(entryOf);
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

/** Writes a new course with its roster and items, and holds it. `tokenHash` is of the token with which it is fed, where there is one. */
export function withCourse<T>(
  tx: Tx,
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
  work: (tx: Tx<'course'>, course: number) => Promise<T>,
): Promise<T> {
  const { people, items, ...file } = parts;
  return withNewCourse(tx, { ...file, ...more }, async (em, { id: course }) => {
    if (tokenHash !== undefined) await keepFeedToken(em, course, tokenHash);
    await insertPeople(
      em,
      people.map((p, position) => ({ ...personRowOf(p), position, course })),
    );
    await insertItems(
      em,
      items.map((i, position) => ({ ...itemRowOf(i), position, course })),
    );
    return work(em, course);
  });
}

type WithPosition<T> = T & { readonly course: number; readonly position: number };

/** Adds people to a course, in steps. */
export async function insertPeople(
  em: Tx<'course'>,
  rows: readonly WithPosition<ReturnType<typeof personRowOf>>[],
): Promise<void> {
  for (const slice of inSlices(rows, ENTRIES_A_STEP)) await afterOthers(() => insertManyRows(em, personHolds, slice));
}

/** Adds items to a course, in steps. */
export async function insertItems(
  em: Tx<'course'>,
  rows: readonly WithPosition<ReturnType<typeof itemRowOf>>[],
): Promise<void> {
  for (const slice of inSlices(rows, ENTRIES_A_STEP)) await afterOthers(() => insertManyRows(em, itemHolds, slice));
}

/** As it is stored, but for its place. */
export const personRowOf = ({ id, ...person }: Person) => ({ ...person, key: id });
export const itemRowOf = ({ id, group, ...item }: Item) => ({ ...item, key: id, itemGroup: group });
