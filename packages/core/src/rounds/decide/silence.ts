/** Limits under which rules write to nobody any more. */
import type { CourseFile, CourseSettings } from '../../course/course.ts';
import { dayNumberOf } from '../../time/calendar.ts';

/** What silences the rules from a day on, `YYYY-MM-DD`, each as a sentence; none where they may still write, or the course is over. */
export function silencesIn(
  {
    settings,
    breaks,
    start,
    end,
  }: Pick<CourseFile, 'breaks' | 'start' | 'end'> & { readonly settings: Pick<CourseSettings, 'budget'> },
  today: string,
): string[] {
  if (today > end) return [];
  const silences: string[] = [];
  if (settings.budget?.count === 0)
    silences.push('The message budget is 0 nudges, which silences every rule that is not essential.');
  let open = dayNumberOf(today < start ? start : today);
  const last = dayNumberOf(end);
  const inOrder = breaks.map((b) => ({ from: dayNumberOf(b.from), to: dayNumberOf(b.to) }));
  for (const b of inOrder.sort((x, y) => x.from - y.from)) if (b.from <= open) open = Math.max(open, b.to + 1);
  if (open > last) silences.push('Breaks cover every day that is left, which silences every rule that skips breaks.');
  return silences;
}
