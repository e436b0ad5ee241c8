/** A campus of the bench: 305 courses with rules and wordings, and one account that owns them all. */
import { createHash } from 'node:crypto';
import { CAPABILITIES } from '@zest-bell/core/access';
import { DAY } from '@zest-bell/core/time';
import { makeCourse, type CourseParts } from '@zest-bell/core/course';
import { parseRule } from '@zest-bell/core/rules';
import { Access, Account, TokenRow } from '../packages/server/dist/access/entity.js';
import { hashPassword } from '../packages/server/dist/access/passwords.js';
import { insertCourse } from '../packages/server/dist/course/repository.js';
import { readyDatabase } from '../packages/server/dist/database.js';
import { inTransaction } from '../packages/server/dist/platform/database/transaction.js';
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

const day = (offset: number) => new Date(Date.now() + offset * DAY).toISOString().slice(0, 10);

function courseOf(n: number, students: number): CourseParts {
  const person = (i: number) => ({
    id: `s${i}`,
    firstName: `Name${i}`,
    lastName: 'Lind',
    email: `c${n}s${i}@x.example`,
    role: 'student' as const,
    section: `g${i % SECTIONS}`,
    active: true,
    enrolledAt: Date.now() - 14 * DAY,
    paused: false,
    contacts: [],
    fields: {},
  });
  return {
    code: `NAV ${n}`,
    title: `Navigation ${n}`,
    timeZone: 'America/New_York',
    start: day(-14),
    end: day(60),
    breaks: [],
    groupWeights: null,
    marks: {},
    settings: { quietHours: null, budget: null },
    items: [],
    people: Array.from({ length: students }, (_, i) => person(i)),
  };
}

function ruleOf(n: number) {
  const rule = parseRule({
    id: `away${n}`,
    name: `Away ${n}`,
    status: 'on',
    audience: { roles: ['student'], sections: [`g${n}`] },
    when: { measure: 'daysSinceVisit', is: '>=', value: 5 },
    repeat: { perSpell: 1 },
    rhythm: { start: `${day(50)}T09:30`, rrule: 'FREQ=WEEKLY;BYDAY=MO' },
    steps: [{ deliver: 'send', to: ['student'], wording: 'gentle' }],
  });
  if (!rule.ok) throw new Error(JSON.stringify(rule.problems));
  return rule.value;
}

/** Writes the campus into a new database; returns how many messages its rounds write. */
export async function setUp(place: string): Promise<number> {
  const orm = await readyDatabase(place);
  const now = Date.now();
  const passwordHash = await hashPassword(SIGN_IN.password);
  const account = await inTransaction(orm, async (tx) => {
    const row = tx.create(Account, { name: 'Ada Lind', email: SIGN_IN.email, passwordHash, createdAt: now });
    await tx.flush();
    return row.id;
  });
  let messages = 0;
  const sizes = [
    ...Array<number>(SMALL.courses).fill(SMALL.students),
    ...Array<number>(LARGE.courses).fill(LARGE.students),
  ];
  for (const [i, students] of sizes.entries()) {
    const parts = courseOf(i + 1, students);
    const tokenHash = hashOf(tokenOf(i + 1));
    await inTransaction(orm, async (tx) => {
      const guards = { askAbove: 1, staleHours: null };
      const id = await insertCourse(tx, parts, { sender: SENDER, tokenHash, guards });
      tx.create(Access, { account, course: id, role: 'owner' });
      tx.create(TokenRow, {
        course: id,
        hash: hashOf(readingTokenOf(i + 1)),
        name: 'Reading',
        capabilities: CAPABILITIES,
        madeBy: account,
        madeAt: now,
      });
      await insertWording(tx, id, {
        id: 'gentle',
        name: 'Gentle',
        purpose: 'support',
        subject: 'A quiet week in {{ course.title }}',
        text: '{{ student.first_name | default: "Hello" }},\n\nit has been {{ student.days_since_visit }}.\n\n{{ sender.signature }}',
      });
      for (let n = 0; n < RULES; n++) await insertRule(tx, { id, course: makeCourse(parts) }, ruleOf(n), null, now);
      await tx.flush();
    });
    messages += parts.people.filter((p) => Number(p.section!.slice(1)) < RULES).length;
  }
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
