import { Router } from 'express';
import { isActiveStudent, type CourseAnswer, type CourseCard } from '@zest-bell/core';
import { Access } from '../accounts/entity.ts';
import { accountOf, courseOf } from '../accounts/routes.ts';
import type { Services } from '../platform/services.ts';
import { RuleRow } from '../rules/entity.ts';
import { termOf } from './term.ts';

export function courseRoutes({ orm, live, clock }: Services): Router {
  const router = Router();

  router.get('/courses', async (req, res) => {
    const em = orm.em.fork();
    const mine = await em.find(Access, { account: accountOf(req) }, { orderBy: { course: 'asc' } });
    const answer: CourseCard[] = [];
    for (const { course: id } of mine) {
      const { course } = await live.get(em, id);
      const rulesOn = await em.count(RuleRow, { course: id, status: 'on' });
      const students = course.people.filter(isActiveStudent).length;
      answer.push({ id, code: course.code, title: course.title, students, rulesOn });
    }
    res.json(answer);
  });

  router.get('/courses/:course', async (req, res) => {
    const id = await courseOf(orm, req);
    const { course, row } = await live.get(orm.em.fork(), id);
    // The look-ups are rebuilt in the browser; nothing that happened in the course is sent.
    const { calendar: _c, personIndex: _p, itemIndex: _i, ...parts } = course;
    res.json({ id, ...parts, sender: row.sender, guards: row.guards, version: row.version } satisfies CourseAnswer);
  });

  router.get('/courses/:course/term', async (req, res) => {
    const id = await courseOf(orm, req);
    const em = orm.em.fork();
    res.json(await termOf(em, await live.get(em, id), clock.now()));
  });

  return router;
}
