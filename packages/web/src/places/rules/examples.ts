/** Sentences of a course to begin with. */
import type { Course } from '@zest-bell/core/course';
import { say } from '@zest-bell/core/saying';
import type { Instant } from '@zest-bell/core/time';

/** Up to five sentences that this course understands. */
export function examplesFor(course: Course, now: Instant): readonly string[] {
  const graded = course.items.findLast((i) => i.points !== null && i.dueAt !== null && i.dueAt <= now);
  const page = course.items.find((i) => i.kind === 'page');
  const group = course.items.find((i) => i.kind === 'assignment' && i.group !== null)?.group;
  const sentences = [
    'away 5 days, weekdays at 9:30, once each time',
    graded && `away 3 days and under 60% on ${graded.title}, copy me`,
    group != null
      ? `missing 2 items or more in ${group}, Sundays and Tuesdays at 6 pm`
      : 'missing 2 items or more, Sundays at 6 pm',
    page && `never opened ${page.title}, once this term`,
    'course grade 50 to 70%, every 2 weeks on Fridays, until they reply',
  ];
  return sentences.flatMap((s) => (s && say(s, course).rule ? [s] : []));
}
