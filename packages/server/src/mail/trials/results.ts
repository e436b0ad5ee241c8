/** What came of each wording of a course, read from its nudges, its answers and what its students did. */
import type { Instant } from '@zest-bell/core/time';
import { textResults, type TextResults } from '@zest-bell/core/outcomes';
import type { LiveCourse } from '../../course/activity/live.ts';
import type { Em } from '../../platform/database/orm.ts';
import { grouped } from '@zest-bell/core/course';
import { sentTexts } from '../replies/sentTexts.ts';

/** By wording, for a wording of so many texts. */
export async function resultsOf(
  em: Em,
  course: LiveCourse,
  now: Instant,
): Promise<(wording: string, texts: number) => TextResults> {
  const sent = grouped(await sentTexts(em, course, now), (n) => n.wording);
  return (wording, texts) => textResults(sent.get(wording) ?? [], texts, now);
}
