/** Courses in memory, each with its history: made when first asked for, renewed when they change, let go when idle. */
import { LRUCache } from 'lru-cache';
import { voiceOf, type Course, type OwnSender, type SenderSettings } from '@zest-bell/core/course';
import { HistoryFacts } from '@zest-bell/core/measures';
import { CourseRow, OwnSenderRow } from '../entity.ts';
import { loadCourse } from '../repository.ts';
import { AppError } from '../../platform/errors/errors.ts';
import type { Em, Orm } from '../../platform/database/orm.ts';
import { NOTHING_FIXED, type FixedSettings } from '../../platform/services.ts';
import { CourseHistory, type StoredEvents } from './courseHistory.ts';
import { hasStoredFacts } from './store.ts';

/** A course with all that is known of it, at one version of its roster, items and settings. */
export interface LiveCourse {
  readonly id: number;
  readonly row: CourseRow;
  readonly course: Course;
  readonly facts: HistoryFacts;
  /** Who speaks: the course, or one of its people (`inVoiceOf`). */
  readonly sender: SenderSettings;
  /** What its people sign with in place of the course's sender, by account. */
  readonly own: ReadonlyMap<number, OwnSender>;
  /** What the operator's settings say about senders. */
  readonly fixed: FixedSettings;
}

/** The course as one of its people speaks for it; where they have no sender of their own, or it is nobody, the course's. */
export const inVoiceOf = (live: LiveCourse, account: number | null | undefined): LiveCourse => ({
  ...live,
  sender: voiceOf(live.row.sender, live.own.get(account ?? 0)),
});

/** How long a course that nobody asks for stays in memory, in ms. */
const IDLE = 30 * 60_000;
/** Events in memory, of all courses together: about half a gigabyte with what is computed from them. */
const MOST_EVENTS = 12_000_000;

export class LiveCourses {
  private readonly fixed: FixedSettings;
  private readonly histories = new LRUCache<number, CourseHistory>({
    maxSize: MOST_EVENTS,
    sizeCalculation: ({ history }) => Math.max(1, history.eventCount),
    ttl: IDLE,
    updateAgeOnGet: true,
  });
  /** The course as last seen, if its history is in memory. */
  private readonly courses = new WeakMap<CourseHistory, LiveCourse>();

  constructor(fixed: FixedSettings = NOTHING_FIXED) {
    this.fixed = fixed;
  }

  /** The course as the database knows it now. Inside a transaction pass its `em`. Throws `notFound`. */
  async get(em: Em, id: number): Promise<LiveCourse> {
    if (hasStoredFacts(em)) throw new Error('A course is read before facts of it are stored, or after they are kept');
    const row = await em.fork({ keepTransactionContext: true }).findOne(CourseRow, { id });
    if (!row) throw new AppError('notFound');
    const inMemory = this.histories.get(id);
    const history = inMemory?.retractions === row.retractions ? inMemory : await this.open(em, row);
    await history.readOn(em);
    const known = this.courses.get(history);
    // What moves without a new version: when the platform was last heard of, whether mail is stopped.
    const live = known?.row.version === row.version ? { ...known, row } : await this.renewed(em, row, history, known);
    // A transaction may be rolled back, and another state may then get the version that it saw.
    if (!em.isInTransaction()) this.courses.set(history, live);
    return live;
  }

  /** Takes events into memory that were stored just now, where nothing came before them that is not known yet. */
  async take(em: Em, id: number, stored: StoredEvents): Promise<void> {
    await this.histories.get(id)?.take(em, stored);
  }

  private async open(em: Em, { id, retractions }: CourseRow): Promise<CourseHistory> {
    const opened = await CourseHistory.open(em, id, retractions);
    // A retraction in an open transaction may still be rolled back, so this history is not cached.
    if (em.isInTransaction() && this.histories.has(id)) return opened;
    // Somebody else may have opened it in the meantime: there is one history of a course.
    const known = this.histories.get(id);
    if (known && known.retractions >= retractions) return known;
    this.histories.set(id, opened);
    return opened;
  }

  /** Writes columns for every course with many new rows, and unloads courses that nobody uses. */
  async tidy(orm: Orm): Promise<void> {
    this.histories.purgeStale();
    for (const history of this.histories.values()) if (history.isWorthSaving) await history.save(orm);
  }

  /** The course read anew, with its known history and those computed values that are still valid. */
  private async renewed(
    em: Em,
    row: CourseRow,
    { history }: CourseHistory,
    known: LiveCourse | undefined,
  ): Promise<LiveCourse> {
    const course = await loadCourse(em, row);
    const facts =
      known?.row.factsVersion === row.factsVersion ? known.facts.renamed(course) : new HistoryFacts(course, history);
    const own = await em.find(OwnSenderRow, { course: row.id }, { disableIdentityMap: true });
    return {
      id: row.id,
      row,
      course,
      facts,
      sender: row.sender,
      own: new Map(own.map((o) => [o.account, o.sender])),
      fixed: this.fixed,
    };
  }
}
