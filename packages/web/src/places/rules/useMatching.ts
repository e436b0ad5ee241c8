import { useQuery } from '@tanstack/react-query';
import type { Rule } from '@zest-bell/core/rules';
import type { Condition } from '@zest-bell/core/conditions';
import { atMoment } from '../../lib/atMoment.ts';
import type { CourseHere } from '../../lib/here.ts';
import { rehearse } from '../../lib/ruleActions.ts';
import { useWordings } from '../../lib/queries.ts';
import { useSettled } from '../../ui/useSettled.ts';
import { newRule } from '../../parts/conditions/defaults.ts';

/** How long nothing is typed before the server is asked, in ms. */
const ASKED_AFTER = 300;

/** How many students match, by a rehearsal as of now; null until that is known. */
export function useMatching(here: CourseHere, when: Condition | null, rest: Partial<Rule> = {}): number | null {
  const wording = useWordings(here.id).data?.[0]?.id;
  const asked = useSettled(when === null || wording === undefined ? null : { when, wording }, ASKED_AFTER);
  const isCurrent = asked !== null && JSON.stringify(asked.when) === JSON.stringify(when);
  const query = useQuery({
    ...atMoment(['matching', here.id, asked, rest.audience], here.now),
    queryFn: ({ signal }) =>
      rehearse(
        here,
        { ...newRule(here.course, here.now, asked!.wording), ...rest, when: asked!.when },
        here.now,
        signal,
      ),
    enabled: asked !== null,
  });
  return isCurrent && query.data && !query.isPlaceholderData ? query.data.matching : null;
}
