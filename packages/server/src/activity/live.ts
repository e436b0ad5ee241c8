/**
 * Each course's history in memory, loaded once and appended to. The rows are the record: before anything is decided a
 * process reads on from the last row it has seen, so that it knows what another process took in.
 */
import { eventKindSchema, History, HistoryFacts, type Course } from '@zest-bell/core';
import { CourseRow } from '../course/entity.ts';
import { loadCourse } from '../course/repository.ts';
import { AppError } from '../platform/errors.ts';
import type { Em } from '../platform/orm.ts';
import { rowsOf } from '../platform/query.ts';
import type { EventRow, GradeRow } from './entity.ts';

/** A course with all that is known of it. */
export interface LiveCourse {
  readonly id: number;
  readonly row: CourseRow;
  readonly course: Course;
  readonly facts: HistoryFacts;
}

interface Kept extends LiveCourse {
  readonly history: History;
  lastEvent: number;
  lastGrade: number;
}

const PAGE = 50_000;

export class LiveCourses {
  private readonly kept = new Map<number, Kept>();

  /** The course as the database knows it now. Inside a transaction pass its `em`. Throws `notFound`. */
  async get(em: Em, id: number): Promise<LiveCourse> {
    const row = await em.fork({ keepTransactionContext: true }).findOne(CourseRow, { id });
    if (!row) throw new AppError('notFound');
    const known = this.kept.get(id);
    if (known && known.row.version === row.version) {
      await readOn(em, known);
      return known;
    }
    const course = await loadCourse(em, row);
    const history = new History(course);
    const fresh: Kept = {
      id,
      row,
      course,
      history,
      facts: new HistoryFacts(course, history),
      lastEvent: 0,
      lastGrade: 0,
    };
    await readOn(em, fresh);
    this.kept.set(id, fresh);
    return fresh;
  }
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
