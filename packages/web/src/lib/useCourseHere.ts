import type { CourseHere } from './here.ts';
import { useCourse, useSession } from './queries.ts';

/** Another of one's courses as if one stood in it, at the same moment; null while it is asked for. */
export function useCourseHere(id: number, here: CourseHere): CourseHere | null {
  const { view } = useCourse(id);
  const session = useSession();
  if (id === here.id) return here;
  const mine = session.data?.courses.find((c) => c.id === id);
  return view ? { ...view, now: here.now, demo: here.demo, may: (c) => mine?.may.includes(c) ?? false } : null;
}
