import type { CourseServices as Course } from '../course/services.ts';
import type { ReplayThread } from './replays/replayThread.ts';

/** Services of courses, and the thread for replays. */
export interface RoundServices extends Course {
  readonly replays: ReplayThread;
}
