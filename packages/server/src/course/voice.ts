import { voiceOf, type SenderSettings } from '@zest-bell/core/course';
import type { Em } from '../platform/database/orm.ts';
import { CourseRow, OwnSenderRow } from './entity.ts';

/** As whom somebody writes in a course; where they sign nothing of their own, or it is nobody, as the course. */
export async function voiceIn(em: Em, course: number, account: number | null | undefined): Promise<SenderSettings> {
  const { sender } = await em.findOneOrFail(CourseRow, { id: course });
  const own = await em.findOne(OwnSenderRow, { course, account: account ?? 0 });
  return voiceOf(sender, own?.sender);
}
