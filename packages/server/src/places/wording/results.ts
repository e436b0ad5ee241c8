/** What came of each wording of a course, read from its nudges, its answers and what its students did. */
import { textResults, type Instant, type SentText, type TextResults } from '@zest-bell/core';
import type { LiveCourse } from '../../activity/live.ts';
import { sentNudges } from '../../nudges/returns.ts';
import type { Em } from '../../platform/orm.ts';
import { ReplyRow } from '../../replies/entity.ts';

/** By wording, for a wording of so many texts. */
export async function resultsOf(
  em: Em,
  course: LiveCourse,
  now: Instant,
): Promise<(wording: string, texts: number) => TextResults> {
  const replies = await em.find(
    ReplyRow,
    { course: course.id, kind: 'reply', student: { $ne: null } },
    { fields: ['nudge'], disableIdentityMap: true },
  );
  const answered = new Set(replies.map((r) => r.nudge));
  const sent = new Map<string, SentText[]>();
  for (const n of await sentNudges(em, course, now)) {
    const texts = sent.get(n.wording) ?? [];
    if (texts.length === 0) sent.set(n.wording, texts);
    const { variant, sentAt, canReturn } = n;
    texts.push({ variant, sentAt, canReturn, returned: n.returned !== null, replied: answered.has(n.nudge) });
  }
  return (wording, texts) => textResults(sent.get(wording) ?? [], texts, now);
}
