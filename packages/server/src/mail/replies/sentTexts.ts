/** Every nudge that reached its student, with what came of it: who came back, who replied. */
import type { Instant } from '@zest-bell/core/time';
import type { SentOutcome } from '@zest-bell/core/outcomes';
import type { LiveCourse } from '../../course/activity/live.ts';
import { type StoredReturn, nudgeHolds } from '../nudges/entity.ts';
import { sentNudges, type SentNudge } from '../nudges/returns.ts';
import type { Em, Tx } from '../../platform/database/orm.ts';
import { ReplyRow } from './entity.ts';
import { updateRows } from '../../platform/database/writing.ts';

/** All of a course. */
export async function sentTexts(em: Em, course: LiveCourse, now: Instant): Promise<SentOutcome[]> {
  const answered = await answeredIn(em, course.id);
  return (await sentNudges(em, course, now)).map((n) => sentText(n, answered));
}

/** The nudges of a course that were answered. */
async function answeredIn(em: Em, course: number): Promise<ReadonlySet<number>> {
  const replies = await em.find(
    ReplyRow,
    { course, kind: 'reply', student: { $ne: null } },
    { fields: ['nudge'], disableIdentityMap: true },
  );
  return new Set(replies.map((r) => r.nudge));
}

/**
 * Keeps what came of the nudges of a course, or of one of its students, right before the facts that tell it go: counts stay what they
 * were. Earlier entries are kept.
 */
export async function keepWhatCame(
  tx: Tx<'course'>,
  course: LiveCourse,
  now: Instant,
  student?: string,
): Promise<void> {
  const answered = await answeredIn(tx, course.id);
  for (const n of await sentNudges(tx, course, now, student === undefined ? {} : { students: [student] })) {
    if (n.replied !== null) continue;
    const came: StoredReturn = { canReturn: n.canReturn, act: n.act, replied: answered.has(n.nudge) };
    await updateRows(tx, nudgeHolds, { id: n.nudge }, { came });
  }
}

/** What came of one nudge, where the nudges that were answered are known. */
export const sentText = (n: SentNudge, answered: ReadonlySet<number>): SentOutcome => ({
  wording: n.wording,
  rule: n.rule,
  step: n.step,
  student: n.student,
  variant: n.variant,
  sentAt: n.sentAt,
  act: n.act?.at ?? null,
  canReturn: n.canReturn,
  returned: n.returned !== null,
  replied: n.replied ?? answered.has(n.nudge),
});
