/** Every nudge that reached its student, with what came of it: who came back, who replied. */
import type { Instant } from '@zest-bell/core/time';
import type { SentOutcome } from '@zest-bell/core/outcomes';
import type { LiveCourse } from '../../course/activity/live.ts';
import { sentNudges, type SentNudge } from '../nudges/returns.ts';
import type { Em } from '../../platform/database/orm.ts';
import { ReplyRow } from './entity.ts';

/** All of a course. */
export async function sentTexts(em: Em, course: LiveCourse, now: Instant): Promise<SentOutcome[]> {
  const replies = await em.find(
    ReplyRow,
    { course: course.id, kind: 'reply', student: { $ne: null } },
    { fields: ['nudge'], disableIdentityMap: true },
  );
  const answered = new Set(replies.map((r) => r.nudge));
  return (await sentNudges(em, course, now)).map((n) => sentText(n, answered));
}

/** What came of one nudge, where the nudges that were answered are known. */
export const sentText = (n: SentNudge, answered: ReadonlySet<number>): SentOutcome => ({
  ...{ wording: n.wording, rule: n.rule, step: n.step, student: n.student, variant: n.variant },
  ...{ sentAt: n.sentAt, act: n.act?.at ?? null },
  ...{ canReturn: n.canReturn, returned: n.returned !== null, replied: answered.has(n.nudge) },
});
