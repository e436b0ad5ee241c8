/** The same place asked of this course, or of all of one’s courses. */
import { useLocation } from 'react-router';
import type { CourseHere } from '../../lib/here.ts';
import { useCourses } from '../../lib/queries.ts';
import { SegmentLinks } from '../../ui/Segments.tsx';

export function EverywhereSwitch({
  here,
  place,
}: {
  readonly here: CourseHere;
  readonly place: 'today' | 'students' | 'rules' | 'tray' | 'log';
}) {
  const open = (useCourses().data ?? []).filter((c) => !c.isArchived);
  const isEverywhere = useLocation().pathname.endsWith('/everywhere');
  if (open.length < 2) return null;
  const base = `/c/${here.id}/${place}`;
  return (
    <SegmentLinks
      label="Of which courses"
      links={[
        { to: base, words: here.course.code, isHere: !isEverywhere },
        { to: `${base}/everywhere`, words: `Everywhere (${open.length} courses)`, isHere: isEverywhere },
      ]}
    />
  );
}
