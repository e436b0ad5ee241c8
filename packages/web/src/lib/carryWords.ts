/** What to look over in a rule that was carried over, in a sentence. */
import type { CarryProblem } from '@zest-bell/core/carry';
import { dateWords } from '@zest-bell/core/time';

export function carryProblemWords({ code, path, name }: CarryProblem): string {
  if (code === 'sections') return `No section here is called ${name}, so this rule is for all sections.`;
  if (path === 'rhythm.until') return 'Its last day would come before its first, so it has none. Check when it ends.';
  if (path === 'rhythm.rrule') return 'It names months or days of a month, which do not move. Check when it runs.';
  if (path === 'rhythm.start') return `It would first run on ${dateWords(name)}, after this course ends.`;
  return `It counts from ${dateWords(name)}, after this course ends.`;
}
