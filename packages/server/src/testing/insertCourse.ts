import type { CourseParts } from '@zest-bell/core/course';
import { withCourse } from '../course/repository.ts';
import { asTx } from './asTx.ts';

/** Writes a course with its roster and items, and returns its id. */
export const insertCourse = (em: object, parts: CourseParts, more: Parameters<typeof withCourse>[2]): Promise<number> =>
  withCourse(asTx(em), parts, more, (_tx, course) => Promise.resolve(course));
