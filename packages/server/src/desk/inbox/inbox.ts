/** What waits over all courses of one person. */
import { DAY, type WorkInParts } from '@zest-bell/core/time';
import type { Rule } from '@zest-bell/core/rules';
import { fallingThrough, type FallingCase } from '@zest-bell/core/rounds';
import type { InboxCourse, InboxReply } from '@zest-bell/core/exchange';
import { accountActor } from '@zest-bell/core/access';
import { actorNames } from '../../access/audit.ts';
import { coursesWhere } from '../../access/permissions.ts';
import { writersOf } from '../../mail/byHand/writers.ts';
import type { LiveCourse } from '../../course/activity/live.ts';
import { asideIn } from '../../course/aside.ts';
import { CourseRow, PersonRow } from '../../course/entity.ts';
import { NudgeRow } from '../../mail/nudges/entity.ts';
import type { Em } from '../../platform/database/orm.ts';
import { ReplyRow } from '../../mail/replies/entity.ts';
import { fallingCaseOf } from '../../rounds/deciding/fallingCase.ts';
import type { IntakeServices } from '../../intake/services.ts';
import { setUpOf } from '../../intake/setUp/setUp.ts';
import { courseStanding } from '../../rounds/courses/standing.ts';
import { RuleRow } from '../../rules/entity.ts';
import { readableRule } from '../../rules/repository.ts';
import { studentName } from '../../mail/log/query.ts';

/** More are told of once these are dealt with. */
const MOST_REPLIES = 100;

export const OPEN_REPLY = { kind: 'reply', settledAt: null } as const;

interface InboxReading {
  readonly live: LiveCourse;
  readonly counts: Omit<InboxCourse, 'falling'>;
  readonly falling: FallingCase;
  readonly aside: ReadonlySet<string>;
}

/** How long before a course begins what is left of setting it up waits for its instructor, in ms. */
const SET_UP_BEFORE = 14 * DAY;

/** Ids of the courses that somebody works in, in order; what is archived waits for nobody. */
export async function coursesOf(em: Em, account: number): Promise<number[]> {
  const mine = await coursesWhere(em, account, 'course.read');
  const rows = await em.find(
    CourseRow,
    { id: { $in: mine }, archivedAt: null },
    { fields: ['id'], orderBy: { id: 'asc' }, disableIdentityMap: true },
  );
  return rows.map((row) => row.id);
}

/** Reads each course; what takes long is done by the generator of `countFalling`. */
export async function readInbox(
  em: Em,
  services: Pick<IntakeServices, 'live' | 'clock'>,
  account: number,
): Promise<InboxReading[]> {
  const now = services.clock.now();
  const read: InboxReading[] = [];
  for (const id of await coursesOf(em, account)) {
    const live = await services.live.get(em, id);
    const { course } = live;
    const standing = await courseStanding(em, live, now);
    const setUp = await setUpOf(em, live);
    const troubles =
      standing.troubles.length +
      standing.stuck.length +
      Number(standing.mailTrouble !== null) +
      Number(standing.stopped !== null) +
      Number(standing.feed.stale);
    const put = { $or: [{ laterUntil: null }, { laterUntil: { $lte: now } }] };
    const isNear = now < course.calendar.end && now >= course.calendar.start - SET_UP_BEFORE;
    read.push({
      live,
      counts: {
        course: id,
        code: course.code,
        title: course.title,
        timeZone: course.timeZone,
        waiting: await em.count(NudgeRow, { course: id, state: 'held', ...put }),
        replies: await em.count(ReplyRow, { course: id, ...OPEN_REPLY }),
        bounced: await em.count(PersonRow, { course: id, active: true, bouncedAt: { $ne: null } }),
        troubles,
        unclear: standing.failed + standing.uncertain,
        // A course that is over needs no more set-up, and one of next term none yet.
        setUpLeft: isNear ? setUp.steps.filter((s) => !s.done).length : 0,
      },
      falling: (await fallingCaseOf(em, services, id)).given,
      aside: new Set((await asideIn(em, id, now)).map((a) => a.student)),
    });
  }
  return read;
}

export function* countFalling(read: readonly InboxReading[]): WorkInParts<InboxCourse[]> {
  const out: InboxCourse[] = [];
  for (const { counts, falling, aside } of read) {
    const found = yield* fallingThrough(falling);
    const students = new Set(found.map((f) => f.student).filter((s) => !aside.has(s)));
    out.push({ ...counts, falling: students.size });
  }
  return out;
}

export async function openReplies(em: Em, read: readonly InboxReading[], account: number): Promise<InboxReply[]> {
  const courses = new Map(read.map(({ live }) => [live.id, live.course]));
  const rows = await em.find(
    ReplyRow,
    { course: { $in: [...courses.keys()] }, ...OPEN_REPLY },
    { orderBy: { at: 'asc', id: 'asc' }, limit: MOST_REPLIES },
  );
  const nudges = await em.find(
    NudgeRow,
    { id: { $in: [...new Set(rows.map((r) => r.nudge))] } },
    { fields: ['id', 'course', 'rule', 'wording'], disableIdentityMap: true },
  );
  const writers = await writersOf(em, nudges);
  const actors = new Map([...writers].flatMap(([id, by]) => (by ? [[id, accountActor(by)] as const] : [])));
  const name = await actorNames(em, [...actors.values()]);
  const pausing = new Set(await coursesWhere(em, account, 'data.write'));
  const ruleRows = await em.find(
    RuleRow,
    { course: { $in: [...courses.keys()] }, status: 'on', key: { $in: nudges.flatMap((n) => n.rule ?? []) } },
    { disableIdentityMap: true },
  );
  const rules = new Map(
    nudges.flatMap((n): [number, Rule][] => {
      const row = ruleRows.find((r) => r.course === n.course && r.key === n.rule);
      const rule = row && readableRule(row);
      return rule ? [[n.id, rule]] : [];
    }),
  );
  return rows.map((r) => {
    const course = courses.get(r.course)!;
    const by = actors.get(r.nudge);
    const rule = rules.get(r.nudge) ?? null;
    const person = course.people[course.personIndex.get(r.student ?? '') ?? -1];
    return {
      id: r.id,
      course: r.course,
      code: course.code,
      nudge: r.nudge,
      student: r.student ?? null,
      writer: by ? { name: name(by), isYou: writers.get(r.nudge) === account } : null,
      name: r.student == null ? r.fromName || r.fromAddress : studentName(course, r.student),
      rule: rule && { name: rule.name, stops: rule.repeat.untilReply === true, steps: rule.steps.length },
      isPaused: person?.paused ?? false,
      mayPause: pausing.has(r.course),
      fromAddress: r.fromAddress,
      at: r.at,
      subject: r.subject,
      text: r.text.slice(0, 4000),
    };
  });
}
