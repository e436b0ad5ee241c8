import { contract } from '@zest-bell/core/contract';
import type { CourseAnswer, CourseCard } from '@zest-bell/core/exchange';
import { Access } from '../../access/entity.ts';
import type { Door } from '../../access/door.ts';
import type { Services } from '../../intake/services.ts';
import { RuleRow } from '../../rules/entity.ts';
import { CourseRow, PersonRow } from '../../course/entity.ts';
import { termOf } from './term.ts';

export function courseRoutes(door: Door, { reading, live, clock, pauseLink }: Services): void {
  door.on(contract.course.all, async ({ account }) => {
    const em = reading.em.fork();
    const mine = await em.find(Access, { account }, { orderBy: { course: 'asc' } });
    const answer: CourseCard[] = [];
    for (const { course: id } of mine) {
      const row = await em.findOne(CourseRow, { id }, { fields: ['code', 'title', 'timeZone', 'archivedAt'] });
      if (!row) continue;
      const rulesOn = await em.count(RuleRow, { course: id, status: 'on' });
      const students = await em.count(PersonRow, { course: id, role: 'student', active: true });
      const { code, title, timeZone } = row;
      answer.push({ id, code, title, timeZone, students, rulesOn, isArchived: row.archivedAt != null });
    }
    return answer;
  });

  door.on(contract.course.read, async ({ course: id }) => {
    const { course, row } = await live.get(reading.em.fork(), id);
    // The look-ups are rebuilt in the browser; nothing that happened in the course is sent.
    const { calendar: _c, personIndex: _p, itemIndex: _i, ...parts } = course;
    const { sender, guards, version, settingsVersion } = row;
    const pauseLinks = pauseLink(0) !== null;
    const archivedAt = row.archivedAt ?? null;
    return { id, ...parts, sender, guards, archivedAt, pauseLinks, version, settingsVersion } satisfies CourseAnswer;
  });

  door.on(contract.course.term, async ({ course: id }) => {
    const em = reading.em.fork();
    return await termOf(em, await live.get(em, id), clock.now());
  });
}
