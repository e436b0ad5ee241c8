/** A course without the demo, begun two weeks ago by the machine's own clock, with students who have never come. */
import { createHash } from 'node:crypto';
import { DAY } from '@zest-bell/core/time';
import { makeCourse, type Person } from '@zest-bell/core/course';
import { parseRule } from '@zest-bell/core/rules';
import { accessHolds } from '../packages/server/dist/access/entity.js';
import { withNewAccount } from '../packages/server/dist/access/holding.js';
import { hashPassword } from '../packages/server/dist/access/passwords.js';
import { withCourse } from '../packages/server/dist/course/repository.js';
import { readyDatabase } from '../packages/server/dist/wiring/database.js';
import { inTransaction } from '../packages/server/dist/platform/database/transaction.js';
import { insertRow } from '../packages/server/dist/platform/database/writing.js';
import { insertRule } from '../packages/server/dist/rules/repository.js';
import { insertWording } from '../packages/server/dist/wording/repository.js';

/** What the learning platform shows when it tells of activity. */
export const TOKEN = 'the-token-of-the-platform';
export const INSTRUCTOR = { email: 'a@saltmarsh.example', password: 'eight bells and all is well' };

export interface KnotsSetting {
  readonly deliver?: 'send' | 'hold';
  /** How many such courses there are, all of one instructor. */
  readonly courses?: number;
  /** Whom the rule writes to. */
  readonly to?: readonly string[];
}

/**
 * Writes the course into a new database at `file`: students `p1`, `p2` and so on of these first names, and one rule, `quiet`,
 * that is on and repeats like `repeat` allows. It looks once, weeks ahead: only ringing it by hand sends anything now.
 */
export async function setUpKnots(
  file: string,
  firstNames: readonly string[],
  repeat: object,
  { deliver = 'send', courses = 1, to = ['student'] }: KnotsSetting = {},
): Promise<void> {
  const orm = await readyDatabase(file);
  const now = Date.now();
  const day = (offset: number) => new Date(now + offset * DAY).toISOString().slice(0, 10);
  const course = {
    code: 'KNT 101',
    title: 'Knots and Splices',
    timeZone: 'America/New_York',
    start: day(-14),
    end: day(60),
    breaks: [],
    groupWeights: null,
    marks: {},
    settings: { quietHours: null, budget: null },
    people: firstNames.map((firstName, i) => student(`p${i + 1}`, firstName, now - 14 * DAY)),
    items: [],
  };
  const rule = parseRule({
    id: 'quiet',
    name: 'Quiet for five days',
    status: 'on',
    audience: { roles: ['student'] },
    when: { measure: 'daysSinceVisit', is: '>=', value: 5 },
    rhythm: { start: `${day(50)}T09:30`, rrule: 'FREQ=WEEKLY;BYDAY=MO' },
    repeat,
    steps: [{ deliver, to, wording: 'gentle' }],
  });
  if (!rule.ok) throw new Error(JSON.stringify(rule.problems));
  const { email, password } = INSTRUCTOR;
  const passwordHash = await hashPassword(password);
  const account = { name: 'A. Lind', email, passwordHash, createdAt: now };
  await inTransaction(orm, (tx) =>
    withNewAccount(tx, account, async (mine, { id: owner }) => {
      for (let n = 0; n < courses; n++) {
        const token = n === 0 ? TOKEN : `${TOKEN} ${n + 1}`;
        await withCourse(
          mine,
          { ...course, code: `KNT ${101 + n}` },
          {
            sender: { name: 'A. Lind', address: email, replyTo: email, signature: 'A. Lind', officeHours: '' },
            tokenHash: createHash('sha256').update(token).digest('hex'),
            guards: { askAbove: 1, staleHours: null },
          },
          async (em, id) => {
            await insertRow(em, accessHolds, { account: owner, course: id, role: 'owner' });
            const text = '{{ student.first_name | default: "Hello" }}, it has been {{ student.days_since_visit }}.';
            await insertWording(em, id, {
              id: 'gentle',
              name: 'Gentle',
              purpose: 'support',
              subject: 'A quiet week',
              text,
            });
            await insertRule(em, { id, course: makeCourse(course) }, rule.value, owner, now);
          },
        );
      }
    }),
  );
  await orm.close();
}

const student = (id: string, firstName: string, enrolledAt: number): Person => ({
  id,
  firstName,
  lastName: 'Lind',
  email: `${id}@saltmarsh.example`,
  role: 'student',
  section: null,
  active: true,
  enrolledAt,
  paused: false,
  contacts: [],
  fields: {},
});
