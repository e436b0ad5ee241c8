/** In the last two weeks of a course, and once it is over: what was decided here can go on in the next one. */
import { Link } from 'react-router';
import { dateWords, DAY } from '@zest-bell/core/time';
import type { CourseHere } from '../../lib/here.ts';
import { useCourses } from '../../lib/queries.ts';
import { Card } from './Card.tsx';

const LAST = 14 * DAY;

export function LastWeeks({ here }: { readonly here: CourseHere }) {
  const courses = useCourses();
  if (here.now < here.course.calendar.end - LAST || here.answer.archivedAt !== null) return null;
  const others = (courses.data ?? []).filter((c) => c.id !== here.id && !c.isArchived);
  const link = 'font-semibold text-pine underline-offset-4 hover:underline';
  return (
    <Card
      title="Take your rules to the next term"
      note={`${here.course.code} ends on ${dateWords(here.course.end)}. Carry its rules, wordings and limits into your next course.`}
    >
      <p className="mt-1 flex flex-wrap gap-x-5 gap-y-1">
        {others.map((c) => (
          <Link key={c.id} className={link} to={`/c/${c.id}/carry?from=${here.id}`}>
            Carry over into {c.code}
          </Link>
        ))}
        <Link className={link} to={`/c/${here.id}/replay/term`}>
          See how the term went
        </Link>
        <Link className={link} to={`/new?from=${here.id}`}>
          Create the next course
        </Link>
      </p>
    </Card>
  );
}
