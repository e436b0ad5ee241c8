/** A campus of the bench: 305 courses with rules and wordings, and one account that owns them all. */
import { createHash } from 'node:crypto';
import { CAPABILITIES } from '@zest-bell/core/access';
import { DAY, type Instant } from '@zest-bell/core/time';
import { makeCourse, type CourseParts } from '@zest-bell/core/course';
import { parseRule } from '@zest-bell/core/rules';
import { accessHolds, tokenHolds } from '../packages/server/dist/access/entity.js';
import { withNewAccount } from '../packages/server/dist/access/holding.js';
import { hashPassword } from '../packages/server/dist/access/passwords.js';
import { withCourse } from '../packages/server/dist/course/repository.js';
import { readyDatabase } from '../packages/server/dist/wiring/database.js';
import type { Orm } from '../packages/server/dist/platform/database/orm.js';
import { inTransaction } from '../packages/server/dist/platform/database/transaction.js';
import { insertRow } from '../packages/server/dist/platform/database/writing.js';
import { insertRule } from '../packages/server/dist/rules/repository.js';
import { insertWording } from '../packages/server/dist/wording/repository.js';

export const few = process.argv.includes('few');
export const SMALL = { courses: few ? 30 : 300, students: 35 };
export const LARGE = { courses: few ? 1 : 5, students: 2000 };
const RULES = 6;
/** A rule finds one section, and sections are a tenth of a course. */
const SECTIONS = 10;
const SENDER = { name: 'A', address: 'a@x.example', replyTo: 'a@x.example', signature: 'A', officeHours: '' };
const SIGN_IN = { email: 'ada@saltmarsh.example', password: 'a long enough password' };
/** With which events of a course come in. */
export const tokenOf = (course: number) => `token-of-course-${course}`;
/** With which a program reads a course, as somebody of its own. */
export const readingTokenOf = (course: number) => `reading-course-${course}`;

const hashOf = (secret: string) => createHash('sha256').update(secret).digest('hex');

/** When the courses run, and when their rules are looked at first. */
export interface CoursePeriod {
  readonly start: Instant;
  readonly end: Instant;
  readonly firstRound: Instant;
}

/** In the middle of it now; no round comes on its own. */
const midTerm = (now: Instant): CoursePeriod => ({
  start: now - 14 * DAY,
  end: now + 60 * DAY,
  firstRound: now + 50 * DAY,
});

const day = (at: Instant) => new Date(at).toISOString().slice(0, 10);

function courseOf(n: number, students: number, term: CoursePeriod): CourseParts {
  const person = (i: number) => ({
    id: `s${i}`,
    firstName: `Name${i}`,
    lastName: 'Lind',
    email: `c${n}s${i}@x.example`,
    role: 'student' as const,
    section: `g${i % SECTIONS}`,
    active: true,
    enrolledAt: term.start,
    paused: false,
    contacts: [],
    fields: {},
  });
  return {
    code: `NAV ${n}`,
    title: `Navigation ${n}`,
    timeZone: 'America/New_York',
    start: day(term.start),
    end: day(term.end),
    breaks: [],
    groupWeights: null,
    marks: {},
    settings: { quietHours: null, budget: null },
    items: [],
    people: Array.from({ length: students }, (_, i) => person(i)),
  };
}

function ruleOf(n: number, term: CoursePeriod) {
  const rule = parseRule({
    id: `away${n}`,
    name: `Away ${n}`,
    status: 'on',
    audience: { roles: ['student'], sections: [`g${n}`] },
    when: { measure: 'daysSinceVisit', is: '>=', value: 5 },
    repeat: { perSpell: 1 },
    rhythm: { start: `${day(term.firstRound)}T09:30`, rrule: 'FREQ=WEEKLY;BYDAY=MO' },
    steps: [{ deliver: 'send', to: ['student'], wording: 'gentle' }],
  });
  if (!rule.ok) throw new Error(JSON.stringify(rule.problems));
  return rule.value;
}

/** One account that owns all courses of a new database. */
async function makeOwner(orm: Orm, now: Instant): Promise<number> {
  const passwordHash = await hashPassword(SIGN_IN.password);
  const row = { name: 'Ada Lind', email: SIGN_IN.email, passwordHash, createdAt: now };
  return inTransaction(orm, (tx) => withNewAccount(tx, row, (_mine, { id }) => Promise.resolve(id)));
}

/** Writes one course with its rules; returns how many messages its rounds write where each rule fits its whole section. */
async function addCourse(
  orm: Orm,
  account: number,
  n: number,
  parts: CourseParts,
  term: CoursePeriod,
): Promise<number> {
  const tokenHash = hashOf(tokenOf(n));
  const more = { sender: SENDER, tokenHash, guards: { askAbove: 1, staleHours: null } };
  await inTransaction(orm, (begun) =>
    withCourse(begun, parts, more, async (tx, id) => {
      await insertRow(tx, accessHolds, { account, course: id, role: 'owner' });
      await insertRow(tx, tokenHolds, {
        course: id,
        hash: hashOf(readingTokenOf(n)),
        name: 'Reading',
        capabilities: CAPABILITIES,
        madeBy: account,
        madeAt: term.start,
      });
      await insertWording(tx, id, {
        id: 'gentle',
        name: 'Gentle',
        purpose: 'support',
        subject: 'A quiet week in {{ course.title }}',
        text: '{{ student.first_name | default: "Hello" }},\n\nit has been {{ student.days_since_visit }}.\n\n{{ sender.signature }}',
      });
      for (let r = 0; r < RULES; r++)
        await insertRule(tx, { id, course: makeCourse(parts) }, ruleOf(r, term), null, term.start);
    }),
  );
  return parts.people.filter((p) => Number(p.section!.slice(1)) < RULES).length;
}

/** How many students the courses of the campus have. */
const CAMPUS = [
  ...Array<number>(SMALL.courses).fill(SMALL.students),
  ...Array<number>(LARGE.courses).fill(LARGE.students),
];

/** Writes courses of so many students into a new database; returns how many messages their rounds write at most. */
export async function setUp(
  place: string,
  term = midTerm(Date.now()),
  sizes: readonly number[] = CAMPUS,
): Promise<number> {
  const orm = await readyDatabase(place);
  const account = await makeOwner(orm, term.start);
  let messages = 0;
  for (const [i, students] of sizes.entries())
    messages += await addCourse(orm, account, i + 1, courseOf(i + 1, students, term), term);
  await orm.close();
  return messages;
}

/** Signs in; returns the cookie. */
export async function signIn(base: string): Promise<string> {
  const headers = { 'content-type': 'application/json', 'sec-fetch-site': 'same-origin' };
  const signedIn = await fetch(`${base}/api/v1/session`, { method: 'POST', headers, body: JSON.stringify(SIGN_IN) });
  const [cookie] = signedIn.headers.getSetCookie().filter((c) => c.startsWith('zest-bell='));
  return cookie!.split(';')[0]!;
}
