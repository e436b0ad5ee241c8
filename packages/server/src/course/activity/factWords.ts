/** A fact that was known of a student, in words. */
import { instantWords, numberWords } from '@zest-bell/core/time';
import type { Course } from '@zest-bell/core/course';
import { EVENT_WORDS } from '@zest-bell/core/activity';
import type { RetractedRow } from './entity.ts';

/** "submitted Tide tables quiz, Sep 13 …", "18 points for …". */
export function factWordsOf(
  fact: Pick<RetractedRow, 'kind' | 'item' | 'criterion' | 'points' | 'at'>,
  course: Course,
): string {
  const item = fact.item == null ? null : (course.items[course.itemIndex.get(fact.item) ?? -1]?.title ?? fact.item);
  const when = instantWords(fact.at, course.timeZone);
  if (fact.kind == null) {
    const criterion = fact.criterion == null ? '' : `, ${fact.criterion}`;
    return `${numberWords(Number(fact.points))} points for ${item ?? ''}${criterion}, ${when}`;
  }
  return `${[EVENT_WORDS[fact.kind], item].filter(Boolean).join(' ')}, ${when}`;
}
