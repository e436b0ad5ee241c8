/** What is known of one student, and taking back what is wrong: from then on no decision counts it. */
import { inCourse } from '../../course/lock.ts';
import { plural } from '@zest-bell/core/time';
import { nameIn } from '@zest-bell/core/course';
import { itemOfCode, kindOfCode, type ActivityEvent, type Grade } from '@zest-bell/core/activity';
import type { ChangedAnswer, StudentFactsAnswer } from '@zest-bell/core/imports';
import { contract } from '@zest-bell/core/contract';
import type { Door } from '../../access/door.ts';
import { RetractedRow } from '../../course/activity/entity.ts';
import { factWordsOf } from '../../course/activity/factWords.ts';
import { applyChange, NO_FACT_CHANGES } from '../../intake/changes/apply.ts';
import { AppError } from '../../platform/errors/errors.ts';
import type { IntakeServices } from '../../intake/services.ts';
import { actorNames } from '../../access/audit.ts';

const PAGE = 60;

export function factRoutes(door: Door, { orm, reading, live, clock }: IntakeServices): void {
  door.on(contract.intake.facts, async ({ course: id, path, req }) => {
    const { student } = path;
    const before = Number(req.query['before'] ?? Infinity);
    const em = reading.em.fork();
    const { course, facts } = await live.get(em, id);
    if (!course.personIndex.has(student)) throw new AppError('notFound');
    const log = facts.history.logOf(student);
    const items = facts.history.itemKeys.all;
    const events: StudentFactsAnswer['events'][number][] = [];
    let more = false;
    for (let i = log.length - 1; i >= 0; i--) {
      if (log.times[i]! >= before) continue;
      if (events.length === PAGE) {
        more = true;
        break;
      }
      const code = log.codes[i]!;
      const key = itemOfCode(code);
      events.push({ kind: kindOfCode(code), item: key < 0 ? null : (items[key] ?? null), at: log.times[i]! });
    }
    const retracted = await em.find(
      RetractedRow,
      { course: id, person: student },
      { orderBy: { id: 'desc' }, limit: PAGE },
    );
    const name = await actorNames(
      em,
      retracted.map((r) => r.by),
    );
    return {
      events,
      more,
      grades: log.grades.map(({ item, ...g }) => ({ ...g, item: items[item]! })).toReversed(),
      retracted: retracted.map((r) => ({
        what: factWordsOf(r, course),
        at: r.retractedAt,
        by: name(r.by),
        reason: r.reason,
      })),
    } satisfies StudentFactsAnswer;
  });

  door.on(contract.intake.retract, async ({ course: id, body: { events, grades, reason }, path, actor: by }) => {
    const { student } = path;
    const change = await inCourse(orm, id, async (em) => {
      const { course } = await live.get(em, id);
      const person = course.people[course.personIndex.get(student) ?? -1];
      if (!person) throw new AppError('notFound');
      const title = `${`${person.firstName} ${person.lastName}`.trim()}: ${reason}`;
      const facts = {
        ...NO_FACT_CHANGES,
        retractedEvents: events.map((e): ActivityEvent => ({ ...e, person: student })),
        retractedGrades: grades.map((g): Grade => ({ ...g, person: student })),
      };
      const row = await applyChange(
        em,
        course,
        course,
        { course: id, kind: 'correction', by, now: clock.now(), title },
        facts,
      );
      if (!row || row.retracted === 0) throw new AppError('notFound');
      return row;
    });
    return { change: change.id, summary: change.title, rules: [], broken: [] };
  });

  door.on(contract.intake.grade, async ({ course: id, body: { points }, path, actor: by }) => {
    const { student, item: key } = path;
    const change = await inCourse(orm, id, async (em) => {
      const { course } = await live.get(em, id);
      const person = course.people[course.personIndex.get(student) ?? -1];
      const item = course.items[course.itemIndex.get(key) ?? -1];
      if (!person || !item) throw new AppError('notFound');
      const title = `${nameIn(course, student)}: ${plural(points, 'point')} for ${item.title}`;
      const now = clock.now();
      const grades = [{ person: student, item: key, criterion: null, points, at: now }];
      const row = await applyChange(
        em,
        course,
        course,
        { course: id, kind: 'edit', by, now, title },
        { ...NO_FACT_CHANGES, grades },
      );
      return row!;
    });
    return { change: change.id, summary: change.title, rules: [], broken: [] } satisfies ChangedAnswer;
  });
}
