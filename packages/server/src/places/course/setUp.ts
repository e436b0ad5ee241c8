/** A course of one's own: begun from nothing or from a scenario file, and what is left to do until it works by itself. */
import { randomBytes } from 'node:crypto';
import { raw, Router } from 'express';
import { z } from 'zod';
import {
  BOUNDS,
  breakSchema,
  courseDetailsSchema,
  eventKey,
  gradeKey,
  isActiveStudent,
  makeCourse,
  parseScenario,
  SETUP_STEPS,
  type CourseParts,
  type Instant,
  type Scenario,
  type SetupAnswer,
  type SetupStep,
} from '@zest-bell/core';
import { Access, Account } from '../../accounts/entity.ts';
import { accountOf, courseOf } from '../../accounts/routes.ts';
import { tokenHash } from '../../activity/ingest.ts';
import type { LiveCourse } from '../../activity/live.ts';
import { appendBatch } from '../../activity/store.ts';
import { CourseRow } from '../../course/entity.ts';
import { insertCourse } from '../../course/repository.ts';
import { AppError } from '../../platform/errors.ts';
import { parseInput } from '../../platform/http.ts';
import type { Em } from '../../platform/orm.ts';
import { inTransaction } from '../../platform/transaction.ts';
import { RuleRow } from '../../rules/entity.ts';
import { insertRule } from '../../rules/repository.ts';
import type { Services } from '../../services.ts';

/** A course as it is begun: what it is called, and its days. */
const newCourseSchema = z.strictObject({
  details: courseDetailsSchema,
  breaks: z.array(breakSchema).max(BOUNDS.breaks).default([]),
});

/** The largest scenario file, in bytes. */
const LARGEST = 64 << 20;

function jsonIn(body: unknown): unknown {
  try {
    return JSON.parse((Buffer.isBuffer(body) ? body.toString('utf8') : '').replace(/^\uFEFF/, ''));
  } catch {
    const message = 'This file is no scenario file. Choose a file that ends in .json';
    throw new AppError('invalidInput', [{ path: 'file', code: 'json', message }]);
  }
}

/** What a course begins with: quiet nights, and one message a week. */
export const NEW_COURSE = {
  breaks: [],
  groupWeights: null,
  marks: { mastery: 80 },
  settings: { quietHours: { from: '21:00', to: '07:00', days: [] }, budget: { count: 1, days: 7 } },
  people: [],
  items: [],
} as const;

/** The most courses of one account. */
const MOST_COURSES = 200;

export function setUpRoutes({ orm, reading, live, clock }: Services): Router {
  const router = Router();

  router.post('/courses', async (req, res) => {
    const { details, breaks } = parseInput(newCourseSchema, req.body);
    const account = accountOf(req);
    const id = await inTransaction(orm, (em) =>
      begin(em, account, {
        ...NEW_COURSE,
        ...details,
        breaks,
      }),
    );
    res.status(201).json({ id });
  });

  /** A whole course from a scenario file; its rules come as drafts. */
  router.post('/courses/scenario', raw({ type: 'application/octet-stream', limit: LARGEST }), async (req, res) => {
    const parsed = parseScenario(jsonIn(req.body));
    if (!parsed.ok) throw new AppError('invalidInput', parsed.problems.slice(0, 50));
    const account = accountOf(req);
    const id = await inTransaction(orm, (em) => beginFrom(em, account, parsed.value, clock.now()));
    res.status(201).json({ id });
  });

  router.get('/courses/:course/setup', async (req, res) => {
    const id = await courseOf(reading, req);
    const em = reading.em.fork();
    res.json((await setUpOf(em, await live.get(em, id))) satisfies SetupAnswer);
  });

  return router;
}

/** What of setting a course up is done. */
export async function setUpOf(em: Em, { id, course, row, facts }: LiveCourse): Promise<SetupAnswer> {
  const count: Readonly<Record<SetupStep, number>> = {
    people: course.people.filter(isActiveStudent).length,
    items: course.items.length,
    activity: facts.history.eventCount,
    sender: row.senderConfirmed ? 1 : 0,
    rule: await em.count(RuleRow, { course: id, status: 'on' }),
  };
  return { steps: SETUP_STEPS.map((step) => ({ step, count: count[step], done: count[step] > 0 })) };
}

/** Begins a course whose instructor is the account. Needs a transaction. */
export async function begin(em: Em, account: number, parts: CourseParts): Promise<number> {
  const { name, email } = await em.findOneOrFail(Account, { id: account });
  if ((await em.count(Access, { account })) >= MOST_COURSES)
    throw new AppError('invalidInput', [
      { path: 'details.title', code: 'tooMany', message: `One account has at most ${MOST_COURSES} courses` },
    ]);
  const blank = name.lastIndexOf(' ');
  const instructor = {
    id: 'instructor',
    firstName: blank < 0 ? name : name.slice(0, blank),
    lastName: blank < 0 ? '' : name.slice(blank + 1),
    email,
    role: 'instructor' as const,
    section: null,
    active: true,
    enrolledAt: makeCourse(parts).calendar.start,
    paused: false,
    contacts: [],
    fields: {},
  };
  const known = parts.people.some((p) => p.email?.toLowerCase() === email || p.id === instructor.id);
  const course = await insertCourse(
    em,
    { ...parts, people: known ? parts.people : [...parts.people, instructor] },
    {
      sender: { name, address: email, replyTo: email, signature: name, officeHours: '' },
      senderConfirmed: false,
      // Nobody knows this token: the course’s page gives out another when it is asked for.
      tokenHash: tokenHash(randomBytes(32).toString('base64url')),
    },
  );
  em.create(Access, { account, course, role: 'instructor' });
  await em.flush();
  return course;
}

async function beginFrom(em: Em, account: number, scenario: Scenario, now: Instant): Promise<number> {
  const { calendar: _c, personIndex: _p, itemIndex: _i, ...parts } = scenario.course;
  const id = await begin(em, account, parts);
  await appendBatch(em, id, {
    events: scenario.events.map((e) => ({ ...e, id: `s:${eventKey(e)}`.slice(0, 300) })),
    grades: scenario.grades.map((g) => ({ ...g, id: `s:${gradeKey(g)}`.slice(0, 300) })),
  });
  await em.nativeUpdate(CourseRow, { id }, { heardAt: scenario.events.length > 0 ? now : null });
  for (const rule of scenario.rules) {
    await insertRule(em, { id, course: scenario.course }, { ...rule, status: 'draft' }, account, now);
  }
  return id;
}
