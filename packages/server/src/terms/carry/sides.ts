/** What carrying goes between. */
import type { CourseToCarry } from '@zest-bell/core/carry';
import type { SenderSettings } from '@zest-bell/core/course';
import type { LiveCourse } from '../../course/activity/live.ts';
import type { Em } from '../../platform/database/orm.ts';
import type { StoredFile } from '../../wording/files/repository.ts';

export interface Side {
  readonly live: LiveCourse;
  readonly decided: CourseToCarry;
}

/** Where it comes from: a course, or a file. */
export interface CarrySource {
  /** Null for a file. */
  readonly course: number | null;
  readonly decided: CourseToCarry;
  /** Null for a file: it says nothing of who sends. */
  readonly sender: SenderSettings | null;
  /** A file that goes with a wording, by its key. */
  readonly file: (em: Em, key: string) => Promise<StoredFile | null>;
}
