import { Router } from 'express';
import type { CourseAnswer, CourseCard } from '@zest-bell/core';
import { Access } from '../../accounts/entity.ts';
import { accountOf, courseOf } from '../../accounts/routes.ts';
import type { Services } from '../../services.ts';
import { RuleRow } from '../../rules/entity.ts';
import { CourseRow, PersonRow } from '../../course/entity.ts';
import { termOf } from './term.ts';

export function courseRoutes({ reading, live, clock, pauseLink }: Services): Router {
  const router = Router();

  router.get('/courses', async (req, res) => {
    const em = reading.em.fork();
    const mine = await em.find(Access, { account: accountOf(req) }, { orderBy: { course: 'asc' } });
    const answer: CourseCard[] = [];
    for (const { course: id } of mine) {
      const row = await em.findOne(CourseRow, { id }, { fields: ['code', 'title', 'timeZone'] });
      if (!row) continue;
      const rulesOn = await em.count(RuleRow, { course: id, status: 'on' });
      const students = await em.count(PersonRow, { course: id, role: 'student', active: true });
      answer.push({ id, code: row.code, title: row.title, timeZone: row.timeZone, students, rulesOn });
    }
    res.json(answer);
  });

  router.get('/courses/:course', async (req, res) => {
    const id = await courseOf(reading, req);
    const { course, row } = await live.get(reading.em.fork(), id);
    // The look-ups are rebuilt in the browser; nothing that happened in the course is sent.
    const { calendar: _c, personIndex: _p, itemIndex: _i, ...parts } = course;
    const { sender, guards, version } = row;
    const pauseLinks = pauseLink(0) !== null;
    res.json({ id, ...parts, sender, guards, pauseLinks, version } satisfies CourseAnswer);
  });

  router.get('/courses/:course/term', async (req, res) => {
    const id = await courseOf(reading, req);
    const em = reading.em.fork();
    res.json(await termOf(em, await live.get(em, id), clock.now()));
  });

  return router;
}
