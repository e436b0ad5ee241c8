/** The same place asked of this course, or of all of one’s courses. */
import { NavLink } from 'react-router';
import type { CourseHere } from '../../lib/here.ts';
import { useCourses } from '../../lib/queries.ts';

export function EverywhereSwitch({
  here,
  place,
}: {
  readonly here: CourseHere;
  readonly place: 'today' | 'students' | 'log';
}) {
  const open = (useCourses().data ?? []).filter((c) => !c.isArchived);
  if (open.length < 2) return null;
  const link = (to: string, words: string) => (
    <NavLink
      end
      to={to}
      className={({ isActive }) =>
        `rounded-full border px-3 py-0.5 text-[14px] font-semibold whitespace-nowrap ${isActive ? 'border-ink bg-ink text-fog' : 'border-line-strong text-ink-2 hover:border-ink'}`
      }
    >
      {words}
    </NavLink>
  );
  const base = `/c/${here.id}/${place}`;
  return (
    <nav aria-label="Of which courses" className="flex gap-1.5">
      {link(base, here.course.code)}
      {link(`${base}/everywhere`, `Everywhere (${open.length} courses)`)}
    </nav>
  );
}
