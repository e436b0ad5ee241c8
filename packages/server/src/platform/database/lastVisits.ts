/**
 * Up to 0.19, a column of last visits in a people sheet was stored as visits and sign-ins, as if each had been recorded. This changes the
 * stored events and retractions to last visits and last sign-ins, and their ids to those that an import of the same file makes now.
 */
import { createHash } from 'node:crypto';

/** Runs one statement, with `?` for its values, and returns the rows it answers. */
export type Execute = (sql: string, values?: unknown[]) => Promise<readonly object[]>;

/** Kinds of people sheets. Only their last-visit columns made visits and sign-ins. */
const PEOPLE_SHEETS = ['roster', 'gradebook', 'attendance', 'columns', 'lastSeen'];

const KINDS = { visit: 'lastVisit', signIn: 'lastSignIn' } as const;

/** Up to this length of a person's id, the event id contains it; above `LONGEST_ID`, the event id is a digest. */
const WRITTEN_OUT = 60;
const LONGEST_ID = 180;

interface VisitChange {
  readonly id: number | string;
  readonly course: number | string;
  readonly first: number | string | null;
  readonly last: number | string | null;
}
interface VisitRow {
  readonly id: number | string;
  readonly person: string;
  readonly kind: keyof typeof KINDS;
  readonly at: number | string;
}

/** Migrates the events of every import of a people sheet that still has its report. */
export async function visitsOfListsToLastVisits(execute: Execute): Promise<void> {
  // A report is kept as text that begins with its kind.
  const kinds = PEOPLE_SHEETS.map(() => 'i.report like ?').join(' or ');
  const changes = (await execute(
    `select c.id as id, c.course as course, c.first_event as first, c.last_event as last from course_change c
     where c.id in (select i.change from import i where i.change is not null and (${kinds}))`,
    PEOPLE_SHEETS.map((kind) => `{"kind":"${kind}",%`),
  )) as VisitChange[];
  const courses = new Set<VisitChange['course']>();
  for (const { id, course, first, last } of changes) {
    const events =
      first === null || last === null
        ? 0
        : await rename(execute, 'activity_event', 'id between ? and ? and change = ?', [first, last, id]);
    const back = await rename(execute, 'retracted', "course = ? and brought_by = ? and fact = 'event'", [course, id]);
    if (events + back > 0) courses.add(course);
  }
  // Invalidates the histories that are stored as columns.
  for (const course of courses) await execute('update course set retractions = retractions + 1 where id = ?', [course]);
}

/** Returns how many of the two kinds were found. */
async function rename(execute: Execute, table: string, where: string, values: unknown[]): Promise<number> {
  let found = 0;
  for (const [kind, now] of Object.entries(KINDS)) {
    const such = `${where} and kind = ? and item is null`;
    const any = await execute(`select id from ${table} where ${such} limit 1`, [...values, kind]);
    if (any.length === 0) continue;
    found++;
    const long = (await execute(`select id, person, kind, at from ${table} where ${such} and length(person) > ?`, [
      ...values,
      kind,
      WRITTEN_OUT,
    ])) as VisitRow[];
    for (const row of long)
      await execute(`update ${table} set kind = ?, event_id = ? where id = ?`, [now, idOf(row), row.id]);
    await execute(
      `update ${table} set kind = ?, event_id = 'c:' || person || ? || at where ${such} and length(person) <= ?`,
      [now, `\n${now}\n\n`, ...values, kind, WRITTEN_OUT],
    );
  }
  return found;
}

/** The id that 0.20 derives from an event's content. A copy on purpose: a migration must not change when the import does. */
function idOf({ person, kind, at }: VisitRow): string {
  const key = `${person}\n${KINDS[kind]}\n\n${at}`;
  return `c:${key.length <= LONGEST_ID ? key : createHash('sha256').update(key).digest('base64url')}`;
}
