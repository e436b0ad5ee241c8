/** The start: the first of one's courses, or what to do without one. */
import { Link, Navigate } from 'react-router';
import { Empty, Failed, Loading } from '../parts/common/States.tsx';
import { useCourses, useSession } from '../lib/queries.ts';

export function FirstCourse() {
  const session = useSession();
  const courses = useCourses();
  if (courses.isPending) return <Loading what="your courses" />;
  if (courses.isError) return <Failed error={courses.error} retry={() => void courses.refetch()} />;
  const first = courses.data.find((c) => !c.isArchived) ?? courses.data[0] ?? session.data?.courses[0];
  if (!first) {
    return (
      <Empty title="No course yet">
        Your courses belong here.{' '}
        {session.data?.mayMakeCourses ? (
          <>
            <Link className="font-semibold text-pine underline" to="/new">
              Create your first course
            </Link>
            .
          </>
        ) : (
          'Somebody with a course can invite you, or an administrator can let you make one.'
        )}
      </Empty>
    );
  }
  return <Navigate to={`/c/${first.id}/today`} replace />;
}
