/**
 * Each course's history in memory, loaded once and appended to. The rows are the record: before anything is decided a
 * process reads on from the last row it has seen, so that it knows what another process took in. Beside the rows stand
 * columns, a cache from which a start is quick; the newest rows are read behind them as a tail.
 */
import {
  eventKindSchema,
  fromColumns,
  History,
  HistoryFacts,
  packColumns,
  toColumns,
  unpackColumns,
  type Course,
  type HistoryColumns,
} from '@zest-bell/core';
import { CourseRow } from '../course/entity.ts';
import { loadCourse } from '../course/repository.ts';
import { AppError } from '../platform/errors.ts';
import type { Em, Orm } from '../platform/orm.ts';
import { rowsOf } from '../platform/query.ts';
import { whenFree } from '../platform/whenFree.ts';
import { SegmentRow, type EventRow, type GradeRow } from './entity.ts';

/** A course with all that is known of it. */
export interface LiveCourse {
  readonly id: number;
  readonly row: CourseRow;
  readonly course: Course;
  readonly facts: HistoryFacts;
}

interface Kept extends LiveCourse {
  row: CourseRow;
  readonly history: History;
  lastEvent: number;
  lastGrade: number;
  /** Rows read since the columns that were loaded or saved. */
  tail: number;
}

const PAGE = 50_000;
/** New columns are worth their writing once this many rows, and a tenth of all, have come since the last ones. */
const LONG_TAIL = 20_000;

export class LiveCourses {
  private readonly kept = new Map<number, Kept>();

  /** The course as the database knows it now. Inside a transaction pass its `em`. Throws `notFound`. */
  async get(em: Em, id: number): Promise<LiveCourse> {
    const row = await em.fork({ keepTransactionContext: true }).findOne(CourseRow, { id });
    if (!row) throw new AppError('notFound');
    const known = this.kept.get(id);
    if (known && known.row.version === row.version) {
      // What moves without a new version: when the platform was last heard of, whether mail is stopped.
      known.row = row;
      await readOn(em, known);
      return known;
    }
    const fresh = (known && (await renewed(em, row, known))) ?? (await begin(em, row));
    await readOn(em, fresh);
    this.kept.set(id, fresh);
    return fresh;
  }

  /** Writes columns for every course whose tail has grown long, so that the next start is quick. */
  async saveColumns(orm: Orm): Promise<void> {
    for (const kept of this.kept.values()) {
      if (kept.tail < LONG_TAIL || kept.tail * 10 < kept.history.eventCount) continue;
      await saveSegment(orm, kept);
    }
  }
}

/** Columns and ids are taken at one moment, so that the tail begins exactly behind them. */
export async function saveSegment(orm: Orm, course: LiveCourse): Promise<void> {
  const kept = course as Kept;
  const columns = Buffer.from(packColumns(toColumns(kept.course, kept.history)).buffer);
  const { id, lastEvent, lastGrade } = kept;
  kept.tail = 0;
  await whenFree(() => orm.em.fork().upsert(SegmentRow, { course: id, lastEvent, lastGrade, columns }));
}

/** What is known of a course whose limits or people's own settings changed; null when its roster or items are others. */
async function renewed(em: Em, row: CourseRow, known: Kept): Promise<Kept | null> {
  const course = await loadCourse(em, row);
  const same = <T extends { readonly id: string }>(a: readonly T[], b: readonly T[]) =>
    a.length === b.length && a.every((one, i) => one.id === b[i]!.id);
  if (!same(course.people, known.course.people) || !same(course.items, known.course.items)) return null;
  return { ...known, row, course, facts: new HistoryFacts(course, known.history) };
}

/** A course from its columns, if there are sound ones, or with an empty history. */
async function begin(em: Em, row: CourseRow): Promise<Kept> {
  const course = await loadCourse(em, row);
  const segment = await em.fork({ keepTransactionContext: true }).findOne(SegmentRow, { course: row.id });
  const unpacked = segment && unpackColumns(segment.columns);
  // Somebody who was not in the course then may have acted before: only the rows know.
  const columns = unpacked && speaksOfAll(unpacked, course) ? unpacked : null;
  const history = columns ? fromColumns(course, columns) : new History(course);
  return {
    id: row.id,
    row,
    course,
    history,
    facts: new HistoryFacts(course, history),
    lastEvent: columns ? segment!.lastEvent : 0,
    lastGrade: columns ? segment!.lastGrade : 0,
    tail: 0,
  };
}

function speaksOfAll(columns: HistoryColumns, course: Course): boolean {
  const people = new Set(columns.people);
  const items = new Set(columns.items);
  return course.people.every((p) => people.has(p.id)) && course.items.every((i) => items.has(i.id));
}

/**
 * Appends the rows that came since. Nothing waits for anything here, as the one who waits may hold the only connection:
 * two readers may fetch the same rows, and whoever comes second finds them taken.
 */
async function readOn(em: Em, kept: Kept): Promise<void> {
  const page = <R>(table: string, columns: string[], after: number): Promise<R[]> => {
    const query = em.getKnex()(table).select(columns).where({ course: kept.id }).andWhere('id', '>', after);
    return rowsOf<R>(em, query.orderBy('id').limit(PAGE));
  };
  for (let rows: EventRow[]; ;) {
    rows = await page<EventRow>('activity_event', ['id', 'person', 'kind', 'item', 'at'], kept.lastEvent);
    for (const r of rows) {
      if (r.id <= kept.lastEvent) continue;
      kept.lastEvent = r.id;
      kept.tail++;
      kept.history.addEvent({ person: r.person, kind: eventKindSchema.parse(r.kind), item: r.item ?? null, at: r.at });
    }
    if (rows.length < PAGE) break;
  }
  for (let rows: GradeRow[]; ;) {
    rows = await page<GradeRow>('grade', ['id', 'person', 'item', 'criterion', 'points', 'at'], kept.lastGrade);
    for (const r of rows) {
      if (r.id <= kept.lastGrade) continue;
      kept.lastGrade = r.id;
      kept.history.addGrade({ ...r, points: Number(r.points), criterion: r.criterion ?? null });
    }
    if (rows.length < PAGE) break;
  }
}
