/** A course of the bench as the scenario file that begins it. */
import type { Course } from '@zest-bell/core/course';

export function scenarioOf(course: Course): object {
  const { code, title, timeZone, start, end, people, items } = course;
  const stamp = (instant: number) => new Date(instant).toISOString();
  return {
    format: 'zest-bell/scenario@1',
    course: { code, title, timeZone, start, end },
    people: people.map(({ id, firstName, lastName, email, role }) => ({
      id,
      firstName,
      lastName,
      email,
      role,
      enrolledAt: stamp(course.calendar.start),
    })),
    items: items.map(({ id, title: name, kind, points, dueAt, group }) => ({
      id,
      title: name,
      kind,
      ...(points === null ? {} : { points }),
      ...(group === null ? {} : { group }),
      dueAt: stamp(dueAt!),
    })),
  };
}
