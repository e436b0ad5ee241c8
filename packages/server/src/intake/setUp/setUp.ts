/** A course of one's own: begun from nothing or from a scenario file, and what is left to do until it works on its own. */
import { raw } from 'express';
import type { Instant } from '@zest-bell/core/time';
import { isActiveStudent, makeCourse, type CourseParts } from '@zest-bell/core/course';
import { EventList, SETUP_STEPS, UnreadableFile, type SetupAnswer, type SetupStep } from '@zest-bell/core/imports';
import { contract } from '@zest-bell/core/contract';
import { Access, Account, accessHolds } from '../../access/entity.ts';
import type { Door } from '../../access/door.ts';
import type { LiveCourse } from '../../course/activity/live.ts';
import { appendFacts } from '../changes/apply.ts';
import { courseHolds } from '../../course/entity.ts';
import { withCourse } from '../../course/repository.ts';
import type { FileReader } from '../imports/fileReader.ts';
import type { ReadScenario } from '../imports/readMessages.ts';
import { AppError } from '../../platform/errors/errors.ts';
import type { Em, Tx } from '../../platform/database/orm.ts';
import { inTransaction } from '../../platform/database/transaction.ts';
import { RuleRow } from '../../rules/entity.ts';
import { insertRule } from '../../rules/repository.ts';
import type { FixedSettings } from '../../platform/services.ts';
import { firstSender } from '../../course/senderProof.ts';
import { mustMakeCourses } from '../../access/permissions.ts';
import type { IntakeServices } from '../services.ts';
import { insertRow, updateRows } from '../../platform/database/writing.ts';

/** The largest scenario file, in bytes. */
const LARGEST = 64 << 20;

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

export function setUpRoutes(door: Door, { orm, reading, live, clock, files, fixed }: IntakeServices): void {
  door.on(contract.course.begin, async ({ body: { details, breaks }, account }) => {
    const id = await inTransaction(orm, (em) =>
      begin(em, fixed, account, { ...NEW_COURSE, ...details, breaks }, (_tx, course) => Promise.resolve(course)),
    );
    return { id };
  });

  /** A whole course from a scenario file; its rules come as drafts. */
  door.on(
    contract.course.beginFromScenario,
    async ({ account, req }) => {
      const found = await scenarioIn(files, req.body);
      const id = await inTransaction(orm, (em) => beginFrom(em, fixed, account, found, clock.now()));
      return { id };
    },
    { reader: raw({ type: ['application/octet-stream', 'application/json'], limit: LARGEST }) },
  );

  door.on(contract.course.setup, async ({ course: id }) => {
    const em = reading.em.fork();
    return (await setUpOf(em, await live.get(em, id))) satisfies SetupAnswer;
  });
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

/** The parts of a course that an account begins: it is the instructor there. */
export async function withInstructor(em: Em, account: number, parts: CourseParts): Promise<CourseParts> {
  const { name, email } = await em.findOneOrFail(Account, { id: account });
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
  return known ? parts : { ...parts, people: [...parts.people, instructor] };
}

/** Begins a course for the account, as its instructor, and holds it for `work`. Throws `mayNotMakeCourses`, `addressNotProven`. */
export async function begin<T>(
  em: Tx,
  fixed: FixedSettings,
  account: number,
  parts: CourseParts,
  work: (tx: Tx<'course'>, course: number) => Promise<T>,
): Promise<T> {
  const maker = await em.findOneOrFail(Account, { id: account });
  await mustMakeCourses(em, maker);
  if ((await em.count(Access, { account })) >= MOST_COURSES)
    throw new AppError('invalidInput', [
      { path: 'details.title', code: 'tooMany', message: `One account has at most ${MOST_COURSES} courses` },
    ]);
  const whole = await withInstructor(em, account, parts);
  const sender = await firstSender(em, fixed, maker);
  return withCourse(em, whole, { sender, senderBy: account, senderConfirmed: false }, async (tx, course) => {
    await insertRow(tx, accessHolds, { account, course, role: 'owner' });
    return work(tx, course);
  });
}

type ReadCourse = Extract<ReadScenario, { readonly ok: true }>;

/** Throws `invalidInput` with what does not fit, or that the file cannot be read. */
async function scenarioIn(files: FileReader, body: unknown): Promise<ReadCourse> {
  try {
    const found = await files.scenario(Buffer.isBuffer(body) ? body : Buffer.alloc(0));
    if (!found.ok) throw new AppError('invalidInput', found.problems);
    return found;
  } catch (error) {
    if (!(error instanceof UnreadableFile)) throw error;
    throw new AppError('invalidInput', [{ path: 'file', code: 'unreadable', message: error.message }]);
  }
}

function beginFrom(tx: Tx, fixed: FixedSettings, account: number, scenario: ReadCourse, now: Instant): Promise<number> {
  const { parts, grades } = scenario;
  return begin(tx, fixed, account, parts, async (em, id) => {
    const events = EventList.from(scenario.events);
    await appendFacts(em, id, { events, grades });
    await updateRows(em, courseHolds, { id }, { heardAt: events.length > 0 ? now : null });
    const course = makeCourse(parts);
    for (const rule of scenario.rules) {
      await insertRule(em, { id, course }, { ...rule, status: 'draft' }, account, now);
    }
    return id;
  });
}
