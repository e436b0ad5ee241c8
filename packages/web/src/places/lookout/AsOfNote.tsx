import { dayWords } from '@zest-bell/core/time';
import type { CourseHere } from '../../lib/here.ts';
import { useTermMoment } from '../../lib/termMoment.ts';

/** Says that a page shows an earlier day, and leads back to now. */
export function AsOfNote({ here }: { readonly here: CourseHere }) {
  const asOf = useTermMoment((s) => s.asOf);
  const { move } = useTermMoment.getState();
  if (asOf === null) return null;
  return (
    <p
      className="mt-1 inline-flex flex-wrap items-center gap-x-3 rounded-lg bg-zest-soft px-3 py-1 text-[14.5px]"
      data-testid="as-of"
    >
      As it was at the end of {dayWords(asOf, here.course.timeZone)}. People and due dates are today’s.
      <button type="button" className="font-semibold text-pine underline underline-offset-4" onClick={() => move(null)}>
        Back to now
      </button>
    </p>
  );
}
