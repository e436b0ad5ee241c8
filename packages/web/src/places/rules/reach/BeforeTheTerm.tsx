/** Before the term nothing that students do counts yet: whom the first round would find, as the dialog that turns a rule on says it. */
import { dayWords } from '@zest-bell/core/time';
import { isActiveStudent } from '@zest-bell/core/course';
import type { Rule } from '@zest-bell/core/rules';
import type { CourseHere } from '../../../lib/here.ts';
import { Failed } from '../../../parts/common/States.tsx';
import { useSettled } from '../../../ui/useSettled.ts';
import { When } from '../../../ui/When.tsx';
import { instantOf, rehearsalWords, useRehearsal } from '../Rehearsal.tsx';

/** How long typing goes on before the first round is decided anew, in ms. */
const SETTLES = 400;

export const isBeforeTheTerm = ({ course, now }: Pick<CourseHere, 'course' | 'now'>): boolean =>
  now < course.calendar.start;

export function BeforeTheTerm({ here, rule }: { readonly here: CourseHere; readonly rule: Rule }) {
  const settled = useSettled(rule, SETTLES);
  const at = instantOf('nextRound', settled, here);
  const rehearsal = useRehearsal(here, settled, at);
  const { course } = here;
  const students = course.people.filter(isActiveStudent).length;
  return (
    <div className="px-6 py-6">
      <div className="flex items-center gap-4" role="status" aria-busy={rehearsal.isFetching} data-testid="reach">
        <span className="font-head text-[42px] leading-none font-extrabold">{students}</span>
        <p className="leading-snug">
          {students === 1 ? 'student' : 'students'}. The term begins {dayWords(course.calendar.start, course.timeZone)}.
          <br />
          {at === null ? (
            'The rule has no checks.'
          ) : (
            <>
              At the first check, <When at={at} zone={course.timeZone} />:{' '}
              <strong data-testid="heard">
                {rehearsal.data ? rehearsalWords(rehearsal.data) : 'checking who would be nudged …'}
              </strong>
            </>
          )}
        </p>
      </div>
      {rehearsal.isError && <Failed error={rehearsal.error} retry={() => void rehearsal.refetch()} />}
      <p className="mt-4 text-[14px] text-ink-2">
        What students do counts from that day on. Then this shows where each of them stands.
      </p>
    </div>
  );
}
