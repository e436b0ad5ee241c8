import { useQuery } from '@tanstack/react-query';
import { isActiveStudent } from '@zest-bell/core/course';
import { ruleDocument, type Rule } from '@zest-bell/core/rules';
import { atMoment } from '../../lib/atMoment.ts';
import type { CourseHere } from '../../lib/here.ts';
import { useWordings } from '../../lib/queries.ts';
import { rehearse } from '../../lib/ruleActions.ts';
import { useSettled } from '../../ui/useSettled.ts';

/** How long nothing is typed before the server is asked, in ms. */
const ASKED_AFTER = 300;

/**
 * Counts the students who match a draft, by rehearsing it as of now. While there is no number, the answer says why. It is null in a course
 * that has no texts: a rehearsal needs one, and the text of the draft is made only when the draft is.
 */
function useMatching(here: CourseHere, draft: Rule | null): number | 'counting' | 'failed' | null {
  const wordings = useWordings(here.id);
  const asked = useSettled(draft, ASKED_AFTER);
  const wording = wordings.data?.[0]?.id;
  const rule = asked && wording !== undefined ? withText(asked, wording) : null;
  const query = useQuery({
    ...atMoment(['matching', here.id, rule && ruleDocument(rule, here.course.timeZone)], here.now),
    queryFn: ({ signal }) => rehearse(here, rule!, here.now, signal),
    enabled: rule !== null,
  });
  if (wordings.data?.length === 0) return null;
  if (wordings.isError) return 'failed';
  if (asked !== draft || query.isPlaceholderData) return 'counting';
  return query.isError ? 'failed' : (query.data?.matching ?? 'counting');
}

/** The same in words: “7 of 42 match now”. Nothing where it cannot be known. */
export function useMatchWords(here: CourseHere, draft: Rule | null): string {
  const matching = useMatching(here, draft);
  const all = here.course.people.filter(isActiveStudent).length;
  if (matching === null || draft === null) return '';
  if (matching === 'counting') return 'Counting …';
  if (matching === 'failed') return 'The students could not be counted.';
  return `${matching} of ${all} ${matching === 1 ? 'matches' : 'match'} now`;
}

const withText = (rule: Rule, wording: string): Rule => ({
  ...rule,
  steps: rule.steps.map((step) => ({ ...step, wording })),
});
