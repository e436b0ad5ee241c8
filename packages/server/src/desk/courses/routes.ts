/** A course as its pages read it, and making one. */
import { presenceKnown } from '@zest-bell/core/activity';
import { DEFAULT_WORRY } from '@zest-bell/core/outcomes';
import { contract } from '@zest-bell/core/contract';
import type { CourseAnswer, CourseCard } from '@zest-bell/core/exchange';
import { coursesWhere } from '../../access/permissions.ts';
import type { Door } from '../../access/door.ts';
import type { IntakeServices } from '../../intake/services.ts';
import { RuleRow } from '../../rules/entity.ts';
import { CourseRow, PersonRow } from '../../course/entity.ts';
import { termOf } from './term.ts';

export function courseRoutes(door: Door, { reading, live, clock, pauseLink }: IntakeServices): void {
  door.on(contract.course.all, async ({ account }) => {
    const em = reading.em.fork();
    const mine = await coursesWhere(em, account, 'course.read');
    const answer: CourseCard[] = [];
    for (const id of mine) {
      const row = await em.findOne(CourseRow, { id }, { fields: ['code', 'title', 'timeZone', 'archivedAt'] });
      if (!row) continue;
      const rulesOn = await em.count(RuleRow, { course: id, status: 'on' });
      const students = await em.count(PersonRow, { course: id, role: 'student', active: true });
      const { code, title, timeZone } = row;
      answer.push({ id, code, title, timeZone, students, rulesOn, isArchived: row.archivedAt != null });
    }
    return answer;
  });

  door.on(contract.course.read, async ({ course: id, account }) => {
    const { course, row, own, facts } = await live.get(reading.em.fork(), id);
    // The look-ups are rebuilt in the browser; nothing that happened in the course is sent.
    const { calendar: _c, personIndex: _p, itemIndex: _i, ...parts } = course;
    const { sender, guards, version, settingsVersion, daysConfirmed } = row;
    const pauseLinks = pauseLink(0) !== null;
    const archivedAt = row.archivedAt ?? null;
    return {
      id,
      ...parts,
      sender,
      daysConfirmed,
      own: own.get(account) ?? null,
      guards,
      worry: row.worry ?? DEFAULT_WORRY,
      presence: presenceKnown(facts.history),
      archivedAt,
      pauseLinks,
      version,
      settingsVersion,
    } satisfies CourseAnswer;
  });

  door.on(contract.course.people, async ({ course: id, query }) => {
    const { course } = await live.get(reading.em.fork(), id);
    return pageOf(course.people, course.personIndex, query);
  });

  door.on(contract.course.items, async ({ course: id, query }) => {
    const { course } = await live.get(reading.em.fork(), id);
    return pageOf(course.items, course.itemIndex, query);
  });

  door.on(contract.course.term, async ({ course: id }) => {
    const em = reading.em.fork();
    return await termOf(em, await live.get(em, id), clock.now());
  });
}

/** Entries in the course's own order. One that is gone in the meantime begins the list anew. */
function pageOf<T extends { readonly id: string }>(
  all: readonly T[],
  places: ReadonlyMap<string, number>,
  { limit, after }: { readonly limit: number; readonly after?: string | undefined },
) {
  const from = after === undefined ? 0 : (places.get(after) ?? -1) + 1;
  const entries = all.slice(from, from + limit);
  return { entries, next: from + limit < all.length ? entries.at(-1)!.id : null };
}
