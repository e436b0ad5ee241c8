/**
 * A course's history in memory, and the only one who adds to it. The rows are the record: it knows the last one it has taken
 * and reads on from there, so it learns what another process stored, and no two readers can take a row twice. Beside the
 * rows stand columns, a cache from which a start is quick; the newest rows are read behind them.
 */
import { setImmediate as nextTurn } from 'node:timers/promises';
import type { Knex } from '@mikro-orm/knex';
import type { Instant } from '@zest-bell/core/time';
import {
  EVENT_KINDS,
  fromColumns,
  History,
  packColumns,
  toColumns,
  unpackColumns,
  type EventColumnsOfPeople,
  type EventKind,
} from '@zest-bell/core/activity';
import type { Em, Orm } from '../../platform/database/orm.ts';
import { countOf, select } from '../../platform/database/query.ts';
import { inCourse } from '../lock.ts';
import { SegmentRow, eventHolds, gradeHolds, segmentHolds } from './entity.ts';
import { upsertRow } from '../../platform/database/writing.ts';

/** Rows that are read before others get their turn. */
const PAGE = 5000;
/** New columns are worth their writing once this many rows, and a tenth of all, have come since the last ones. */
const LONG_TAIL = 20_000;

/** Events that one change has stored, in their order. */
export interface StoredEvents {
  readonly events: EventColumnsOfPeople;
  /** The last row of the course before. */
  readonly after: number;
  readonly firstEvent: number;
  readonly lastEvent: number;
}

export class CourseHistory {
  readonly course: number;
  readonly history: History;
  /** The course’s count of facts taken back when this was opened. */
  readonly retractions: number;
  private lastEvent: number;
  private lastGrade: number;
  /** Rows taken since the columns that were read or written. */
  private tail = 0;
  /** Rows that are being taken from memory: nobody reads a part of them. */
  private taking: Promise<void> | null = null;

  private constructor(course: number, history: History, retractions: number, lastEvent: number, lastGrade: number) {
    history.epoch = retractions;
    this.course = course;
    this.retractions = retractions;
    this.history = history;
    this.lastEvent = lastEvent;
    this.lastGrade = lastGrade;
  }

  /** From its columns, if there are sound ones, or empty; `readOn` brings the rest. */
  static async open(em: Em, course: number, retractions: number): Promise<CourseHistory> {
    const segment = await em.fork({ keepTransactionContext: true }).findOne(SegmentRow, { course });
    const columns = segment?.retractions === retractions ? unpackColumns(segment.columns) : null;
    if (!segment || !columns) return new CourseHistory(course, new History(), retractions, 0, 0);
    return new CourseHistory(course, fromColumns(columns), retractions, segment.lastEvent, segment.lastGrade);
  }

  /**
   * Takes what a change has stored from memory, which is much quicker than from its rows. Does nothing where other rows came between the
   * last one that is known and these.
   */
  async take(em: Em, { events, after, firstEvent, lastEvent }: StoredEvents): Promise<void> {
    const others = em.getKnex()('activity_event').where({ course: this.course }).where('id', '>', after);
    if ((await countOf(em, others.where('id', '<', firstEvent))) > 0 || this.lastEvent !== after) return;
    this.lastEvent = lastEvent;
    this.taking = this.takeInTurns(events);
    await this.taking;
    this.taking = null;
  }

  private async takeInTurns(events: StoredEvents['events']): Promise<void> {
    const count = events.times.length;
    for (let from = 0; from < count; from += PAGE) {
      this.history.addColumns(events, from, Math.min(count, from + PAGE));
      await nextTurn();
    }
    this.tail += count;
  }

  /** Takes the rows that came since. Several may read at once: the one who comes second finds the rows taken. */
  async readOn(em: Em): Promise<void> {
    await this.taking;
    for (;;) {
      const rows = await select(em, eventHolds, ['id', 'person', 'kind', 'item', 'at'], this.after(this.lastEvent));
      this.takeEvents(rows);
      if (rows.length < PAGE) break;
      await nextTurn();
    }
    for (;;) {
      const columns = ['id', 'person', 'item', 'criterion', 'points', 'at'] as const;
      const rows = await select(em, gradeHolds, columns, this.after(this.lastGrade));
      this.takeGrades(rows);
      if (rows.length < PAGE) break;
      await nextTurn();
    }
    // It may have begun in the meantime.
    await this.taking;
  }

  /** The next page of this course's rows. */
  private after(id: number) {
    return (query: Knex.QueryBuilder): Knex.QueryBuilder =>
      query.where({ course: this.course }).andWhere('id', '>', id).orderBy('id').limit(PAGE);
  }

  private takeEvents(rows: readonly EventPart[]): void {
    const fresh = rows.filter((r) => r.id > this.lastEvent && KINDS.has(r.kind));
    this.history.addEvents({
      people: fresh.map((r) => r.person),
      kinds: fresh.map((r) => r.kind),
      items: fresh.map((r) => r.item),
      times: fresh.map((r) => r.at),
    });
    this.tail += fresh.length;
    this.lastEvent = Math.max(this.lastEvent, rows.at(-1)?.id ?? 0);
  }

  private takeGrades(rows: readonly GradePart[]): void {
    for (const row of rows) {
      if (row.id <= this.lastGrade) continue;
      this.history.addGrade({ ...row, points: Number(row.points) });
      this.lastGrade = row.id;
    }
  }

  /** Whether columns written now would make the next start quicker. */
  get isWorthSaving(): boolean {
    return this.tail >= LONG_TAIL && this.tail * 10 >= this.history.eventCount;
  }

  /**
   * Writes the columns. They and the ids of the last rows are taken at one moment. Where facts have been taken back or somebody has been
   * erased since, what is in memory holds them still, and nothing is written.
   */
  async save(orm: Orm): Promise<void> {
    const columns = Buffer.from(packColumns(toColumns(this.history)).buffer);
    const { course, retractions, lastEvent, lastGrade } = this;
    this.tail = 0;
    await inCourse(orm, course, async (em, now) => {
      if (now.retractions === retractions)
        await upsertRow(em, segmentHolds, { course, retractions, lastEvent, lastGrade, columns });
    });
  }
}

const KINDS: ReadonlySet<string> = new Set(EVENT_KINDS);

interface EventPart {
  readonly id: number;
  readonly person: string;
  readonly kind: EventKind;
  readonly item: string | null;
  readonly at: Instant;
}

interface GradePart {
  readonly id: number;
  readonly person: string;
  readonly item: string;
  readonly criterion: string | null;
  readonly points: number | string;
  readonly at: Instant;
}
