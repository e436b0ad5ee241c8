/** The demo: wires the stand-ins to the server, and plays the term up to its opening when the database is new. */
import type { Door } from '../access/door.ts';
import { AppError } from '../platform/errors/errors.ts';
import { createHmac } from 'node:crypto';
import { join } from 'node:path';
import {
  Campus,
  Correspondence,
  DEMO_COLLEAGUES,
  DEMO_OWN_SENDER,
  DEMO_INSTRUCTOR,
  DemoClock,
  Letters,
  mailroomRoutes,
  openMailroom,
  OPENING,
  DEMO_COURSES,
  DEMO_REMARKS,
  NEXT_TERM,
  SHARED,
  SET_UP_AT,
  SEED,
  Switches,
  DemoStage,
  sendAnswer,
  sendByStandards,
  sendToOwnInterface,
  type MailboxOwner,
} from '@zest-bell/standins';
import { DAY } from '@zest-bell/core/time';
import { makeCourse, isSameAddress } from '@zest-bell/core/course';
import { parseRule } from '@zest-bell/core/rules';
import { wordingSchema } from '@zest-bell/core/wording';
import type { ClockAnswer } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import { Access, Account, accessHolds } from '../access/entity.ts';
import { prove } from '../access/links.ts';
import { coursesWhere } from '../access/permissions.ts';
import { hashPassword, hashOf } from '../access/passwords.ts';
import { CourseRow, PersonRow, ownSenderHolds } from '../course/entity.ts';
import { withCourse } from '../course/repository.ts';
import { joinSet, setOf } from '../rules/sets/membership.ts';
import { pinHolds, noteHolds } from '../desk/notes/entity.ts';
import type { Dispatcher } from '../mail/outbox/dispatcher.ts';
import type { Em, Orm, Tx } from '../platform/database/orm.ts';
import { nextDigest } from '../desk/inbox/digest.ts';
import { replyHolds } from '../mail/replies/entity.ts';
import type { ConnectionServices } from '../connections/services.ts';
import { lineTo, openDemoPlatform, registerDemoPlatform } from './platform.ts';
import { nextRoundOfAll, runDueRounds } from '../rounds/deciding/scheduler.ts';
import { RuleRow } from '../rules/entity.ts';
import { insertRule } from '../rules/repository.ts';
import { planOf, startTrial } from '../mail/trials/trial.ts';
import { WordingRow, wordingHolds } from '../wording/entity.ts';
import { wordingOfRow } from '../wording/repository.ts';
import { inTransaction } from '../platform/database/transaction.ts';
import { accountActor } from '@zest-bell/core/access';
import { insertRow, updateRows } from '../platform/database/writing.ts';
import { inCourse, alsoCourse } from '../course/lock.ts';
import { inInstallation, withNewAccount } from '../access/holding.ts';
import { setInstallation } from '../access/installation.ts';
import { keepCopy, putOnShelf } from '../terms/shelf/shelf.ts';
import { type AccessRole } from '@zest-bell/core/access';

/** For trying the sign-in form; the demo's button needs none. */
const DEMO_PASSWORD = 'high-water-0914';
/** The campus tells something every hour or so of a day; two days of silence are a fault. */
const GUARDS = { askAbove: 0.5, staleHours: 48 };
/** A wording of the demo with two texts. */
const TRIED_WORDING = 'lab';
/** Where answers to the demo's nudges come in: a free port of this machine alone. */
export const DEMO_REPLIES = { domain: 'bell.saltmarsh.example', port: 0, host: '127.0.0.1' } as const;

export interface Demo {
  readonly clock: DemoClock;
  readonly smtpUrl: string;
  readonly email: string;
  readonly routes: (door: Door) => void;
  /** What its clock tells beside the time. */
  readonly tells: () => Pick<ClockAnswer, 'silent' | 'campus'>;
  /** Once everything else is wired: plays up to the opening, or goes on where the last run stopped. */
  playUpToNow(services: ConnectionServices, dispatcher: Dispatcher, base: string): Promise<void>;
  readonly forgetMail: ConnectionServices['forgetMail'];
  /** Where the server takes answers to its nudges. */
  receiveAt(port: number): void;
  close(): Promise<void>;
}

export async function openDemo(folder: string, orm: Orm, secret: string, smtpDelay = 0): Promise<Demo> {
  const clock = new DemoClock(join(folder, 'demo-clock.json'), SET_UP_AT);
  const letters = new Letters(join(folder, 'mailroom.jsonl'));
  const switches = new Switches(join(folder, 'mailroom-switches.json'));
  const mailroom = await openMailroom(letters, clock, { port: 0, delay: smtpDelay }, switches);
  let receiverPort: number | null = null;
  const portOf = (address: string) =>
    receiverPort !== null && address.toLowerCase().endsWith(`@${DEMO_REPLIES.domain}`) ? receiverPort : mailroom.port;
  const tokenOf = (code: string) => createHmac('sha256', secret).update(`campus of ${code}`).digest('hex');
  let stage: DemoStage | null = null;
  const correspondence = DEMO_COURSES.map(
    (p) =>
      new Correspondence({
        seed: SEED,
        people: p.parts.people,
        habits: p.habits,
        away: p.away,
        letters: (address) => letters.of(address),
      }),
  );

  const campuses = DEMO_COURSES.map(
    (p) =>
      new Campus(makeCourse(p.parts), {
        seed: SEED,
        habits: p.habits,
        never: p.never,
        letters: (person) => (person.email ? letters.arrivals(person.email) : []),
      }),
  );
  let tool = '';
  const platform = await openDemoPlatform(folder, { tool: () => tool, campus: campuses[0]!, clock });
  const tells = () => ({ silent: clock.silentSince !== null, campus: platform.base });

  let services: ConnectionServices | null = null;
  const clockAnswer = async (): Promise<ClockAnswer> => {
    const nextRound = await nextRoundOfAll(services!);
    return { now: clock.now(), nextRound, demo: true, ...tells() };
  };
  const routes = (door: Door) => {
    door.on(contract.demo.advance, async ({ body: { by } }) => {
      await stage!.advance(by);
      return clockAnswer();
    });
    door.on(contract.demo.campus, async ({ body: { silent } }) => {
      await stage!.silence(silent);
      return clockAnswer();
    });
    const owners = (account: number) => ownersFor(orm.em.fork(), account, letters.addresses());
    mailroomRoutes(door.on, letters, owners, { switches, clock, portOf }, () => new AppError('notFound'));
  };

  return {
    clock,
    smtpUrl: `smtp://127.0.0.1:${mailroom.port}`,
    email: DEMO_INSTRUCTOR.email,
    routes,
    tells,
    forgetMail: (address, names) =>
      letters.forget(({ to, subject, text }) => isSameAddress(to, address) || names(subject) || names(text)),
    async playUpToNow(wired, dispatcher, base) {
      services = wired;
      if ((await orm.em.fork().count(CourseRow)) === 0) {
        await setUp(orm, tokenOf);
        await tryTexts(wired);
        await stockShelf(wired);
      }
      const isPlaying = clock.now() < OPENING;
      tool = wired.linkBase() ?? base;
      const course = await registerDemoPlatform(wired, platform, campuses[0]!);
      stage = new DemoStage({
        clock,
        // The first course is fed by its learning platform, the other by a script of the institution.
        feeds: campuses.map((campus, n) => {
          const { code, timeZone } = campus.course;
          const token = tokenOf(code);
          return {
            campus,
            tell: (activity, now) =>
              n === 0
                ? sendByStandards(lineTo(platform, { base, token, campus, course }), activity, now)
                : sendToOwnInterface({ base, token, timeZone }, activity),
          };
        }),
        hooks: {
          nextRound: () => nextRoundOfAll(wired),
          nextMail: async () => earliest(await dispatcher.nextDue(), await nextDigest(wired)),
          runRounds: () => runDueRounds(wired).then(() => undefined),
          sendMail: () => dispatcher.drain(),
          nextAnswer: () => {
            return earliest(...correspondence.map((c) => c.next(clock.now())));
          },
          bringAnswers: async (from, until) => {
            for (const { kind, letter, name, text } of correspondence.flatMap((c) => c.between(from, until))) {
              // A killed process may bring the same answer again: it is the same mail.
              const messageId = `<answer-${letter.id}@saltmarsh.example>`;
              await sendAnswer({ kind, letter, name, text, clock, portOf, messageId });
            }
          },
        },
      });
      await stage.resume();
      await stage.moveTo(OPENING);
      if (isPlaying) await settleOld(orm);
    },
    receiveAt: (port) => {
      receiverPort = port;
    },
    close: async () => {
      await platform.close();
      await mailroom.close();
    },
  };
}

/** A fair trial from the first day: does it help to say why the labs matter? */
async function tryTexts({ orm, live, clock }: ConnectionServices): Promise<void> {
  const before = orm.em.fork();
  const row = await before.findOneOrFail(WordingRow, { key: TRIED_WORDING });
  const { account } = await before.findOneOrFail(Access, { course: row.course, role: 'owner' });
  const asked = { live, account, now: clock.now(), row };
  const plan = await planOf(before, asked);
  await inCourse(orm, row.course, (em) => startTrial(em, asked, plan, { points: 30, courses: [] }, SEED));
}

/** What the college offers to all courses: a starter and a wording, of which the second course has taken both. */
async function stockShelf({ orm, reading, live }: ConnectionServices): Promise<void> {
  const em = orm.em.fork();
  const [{ id: keeper }, { id: colleague }] = [
    await em.findOneOrFail(Account, { email: DEMO_INSTRUCTOR.email }),
    await em.findOneOrFail(Account, { email: DEMO_COLLEAGUES[0].email }),
  ];
  await inInstallation(orm, (tx) => setInstallation(tx, { name: 'Saltmarsh College', shelfKeepers: [colleague] }));
  const first = await em.findOneOrFail(CourseRow, { code: DEMO_COURSES[0]!.parts.code });
  const second = await em.findOneOrFail(CourseRow, { code: DEMO_COURSES[1]!.parts.code });
  const put = (kind: 'rule' | 'wording', key: string, note: string, item?: number) =>
    putOnShelf(
      { orm, reading, live },
      { course: first.id, by: accountActor(keeper), kind, key, note, item, keepWords: true },
    );
  const rule = await put('rule', 'quiet', 'From the second week on. Most come back after the first message.');
  const text = await put(
    'wording',
    'gentle',
    'A first message to somebody who has been away. It offers help and names one next step.',
  );
  await inCourse(orm, second.id, async (tx) => {
    const of = { course: second.id, version: 1 };
    await keepCopy(tx, { ...of, kind: 'rule', key: 'quiet', item: rule.id });
    await keepCopy(tx, { ...of, kind: 'wording', key: 'gentle', item: text.id });
  });
  await put(
    'wording',
    'gentle',
    'Now with the work that is still open, so that coming back has a first step.',
    text.id,
  );
}

/** Accounts, courses, wordings and rules, as the instructor would have set them up before the first day. */
async function setUp(orm: Orm, tokenOf: (code: string) => string): Promise<void> {
  const passwordHash = await hashPassword(DEMO_PASSWORD);
  await inTransaction(orm, async (tx) => {
    const account = (
      person: { name: string; email: string; isAdministrator?: boolean },
      addresses: readonly string[],
    ) =>
      withNewAccount(tx, { ...person, passwordHash, createdAt: SET_UP_AT }, async (mine, row) => {
        for (const address of new Set([row.email, ...addresses])) await prove(mine, row.id, address, 'machine');
        return row;
      });
    const senders = [...DEMO_COURSES, NEXT_TERM].flatMap(({ sender }) => [sender.address, sender.replyTo]);
    const instructor = await account({ ...DEMO_INSTRUCTOR, isAdministrator: true }, senders);
    const others: { role: AccessRole; row: Account }[] = [];
    for (const { role, ...person } of DEMO_COLLEAGUES) {
      const { email, sender } = DEMO_OWN_SENDER;
      const own = person.email === email ? [sender.address, sender.replyTo] : [];
      others.push({ role, row: await account(person, own) });
    }
    for (const [n, p] of DEMO_COURSES.entries()) {
      const made = {
        sender: p.sender,
        senderBy: instructor.id,
        tokenHash: hashOf(tokenOf(p.parts.code)),
        guards: GUARDS,
      };
      await withCourse(tx, p.parts, made, async (em, id) => {
        await insertRow(em, accessHolds, { account: instructor.id, course: id, role: 'owner' });
        // They have a part in the first course alone.
        if (n === 0)
          for (const { role, row } of others) {
            await insertRow(em, accessHolds, { account: row.id, course: id, role });
            const { email, sender } = DEMO_OWN_SENDER;
            if (row.email === email)
              await insertRow(em, ownSenderHolds, { course: id, account: row.id, sender, isChecked: true });
          }
        for (const w of p.wordings) {
          const { id: key, text, ...more } = wordingSchema.parse(w);
          await insertRow(em, wordingHolds, { course: id, key, body: text, ...more });
        }
        const course = makeCourse(p.parts);
        for (const draft of p.rules) {
          const rule = parseRule(draft);
          if (!rule.ok) throw new Error(`A rule of the demo does not fit: ${JSON.stringify(rule.problems)}`);
          await insertRule(em, { id, course }, rule.value, instructor.id, SET_UP_AT);
        }
        const remarks = DEMO_REMARKS[p.parts.code];
        const own = { course: id, account: instructor.id };
        for (const pin of remarks?.pins ?? []) await insertRow(em, pinHolds, { ...own, ...pin });
        for (const note of remarks?.notes ?? []) await insertRow(em, noteHolds, { ...own, ...note });
      });
    }
    await useTogether(tx, instructor.id);
    const next = {
      sender: NEXT_TERM.sender,
      senderBy: instructor.id,
      tokenHash: hashOf(tokenOf(NEXT_TERM.parts.code)),
      guards: GUARDS,
    };
    await withCourse(tx, NEXT_TERM.parts, next, async (held, course) => {
      await insertRow(held, accessHolds, { account: instructor.id, course, role: 'owner' });
    });
  });
}

/** What both courses have is of one set: they joined what each had written for itself. */
async function useTogether(all: Tx, instructor: number): Promise<void> {
  const [first, ...others] = await all.find(CourseRow, {}, { orderBy: { id: 'asc' } });
  await alsoCourse(all, first!.id, async (tx) => {
    const rule = await tx.findOneOrFail(RuleRow, { course: first!.id, key: SHARED.rule });
    const wording = await tx.findOneOrFail(WordingRow, { course: first!.id, key: SHARED.wording });
    for (const [kind, key, document] of [
      ['wording', SHARED.wording, wordingOfRow(wording)],
      ['rule', SHARED.rule, rule.document],
    ] as const) {
      const saying = { document, by: accountActor(instructor), now: SET_UP_AT };
      const { set } = await setOf(tx, { kind, course: first!.id, key }, saying);
      for (const { id: course } of others)
        await alsoCourse(tx, course, (held) => joinSet(held, set, { kind, course, key }));
    }
  });
}

const earliest = (...times: (number | null)[]): number | null => {
  const known = times.filter((t) => t !== null);
  return known.length === 0 ? null : Math.min(...known);
};

/** Replies from before the last weekend were answered in the weeks that were played. */
async function settleOld(orm: Orm): Promise<void> {
  const before = OPENING - 4 * DAY;
  const em = orm.em.fork();
  const { id } = await em.findOneOrFail(Account, { email: DEMO_INSTRUCTOR.email });
  const settled = { settledAt: before, settledBy: accountActor(id) };
  for (const { id: course } of await em.find(CourseRow, {}))
    await inCourse(orm, course, (tx) =>
      updateRows(tx, replyHolds, { course, at: { $lt: before }, settledAt: null }, settled),
    );
}

/**
 * Everyone on the rosters of the person's own courses who has an address, and the contacts named there. Administrators also see every other
 * address that got mail: of people who were invited, of colleagues, and addresses to be proven.
 */
async function ownersFor(em: Em, account: number, written: readonly string[]): Promise<MailboxOwner[]> {
  const courses = await coursesWhere(em, account, 'course.read');
  const owners = new Map<string, MailboxOwner>();
  const add = (address: string | null | undefined, name: string, role: string) => {
    if (address && !owners.has(address)) owners.set(address, { address, name, role });
  };
  for (const p of await em.find(PersonRow, { course: { $in: courses } }, { orderBy: { id: 'asc' } })) {
    add(p.email, `${p.firstName} ${p.lastName}`, p.role);
    for (const c of p.contacts) add(c.email, c.name, c.kind);
  }
  const { email, name, isAdministrator } = await em.findOneOrFail(Account, { id: account });
  if (written.includes(email.toLowerCase())) add(email, name, 'your account');
  if (!isAdministrator) return [...owners.values()];
  const accounts = new Map(
    (await em.find(Account, { email: { $in: [...written] } })).map((a) => [a.email.toLowerCase(), a.name]),
  );
  const known = new Set([...owners.keys()].map((address) => address.toLowerCase()));
  for (const address of written) {
    if (!known.has(address)) add(address, accounts.get(address) ?? address, 'in no roster');
  }
  return [...owners.values()];
}
