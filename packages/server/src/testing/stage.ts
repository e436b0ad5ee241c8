/** The whole server over a database of its own, with a small course in it, at a moment that the test sets. */
import express from 'express';
import { holdsToContract } from './answers.ts';
import { asTx } from './asTx.ts';
import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Express } from 'express';
import { pino } from 'pino';
import request from 'supertest';
import { zoneOf } from '@zest-bell/core/time';
import { makeCourse, type CourseParts, type Item, type Person } from '@zest-bell/core/course';
import type { AccessRole } from '@zest-bell/core/access';
import { parseRule, type Rule } from '@zest-bell/core/rules';
import type { CourseGuards } from '@zest-bell/core/rounds';
import { Access, Account } from '../access/entity.ts';
import { hash as argon2 } from '@node-rs/argon2';
import { InstallationSenderNow } from '../access/installation.ts';
import { prove } from '../access/links.ts';
import { hashOf } from '../access/passwords.ts';
import { NOTHING_FIXED } from '../platform/services.ts';
import { LiveCourses } from '../course/activity/live.ts';
import { withCourse } from '../course/repository.ts';
import { makeDispatcher } from '../wiring/dispatching.ts';
import type { Dispatcher } from '../mail/outbox/dispatcher.ts';
import { createApp } from '../app.ts';
import { sealOf } from '../platform/process/seal.ts';
import { noNews } from '../platform/work/news.ts';
import { LongWork } from '../platform/work/longWork.ts';
import { noTransport, smtpTransport } from '../platform/mail/mail.ts';
import { pauseToken } from '../mail/pauses/token.ts';
import { openDatabase } from '../wiring/database.ts';
import { dropDatabase, hasDatabase, makeDatabase, placeIn } from './database.ts';
import { type Orm } from '../platform/database/orm.ts';
import { replyAddress } from '../mail/replies/address.ts';
import { BroughtFiles } from '../intake/imports/broughtFiles.ts';
import { FileReader } from '../intake/imports/fileReader.ts';
import { Staging } from '../intake/staging/staging.ts';
import { ReplayThread } from '../rounds/replays/replayThread.ts';
import type { ConnectionServices } from '../connections/services.ts';
import { outgoing } from '../platform/http/outgoing.ts';
import { RuleRow } from '../rules/entity.ts';
import { insertRule } from '../rules/repository.ts';
import { WordingRow } from '../wording/entity.ts';
import { TestClock } from './clock.ts';
import { unguarded } from './unguarded.ts';

export const ZONE = 'America/New_York';
/** Local New York time as an instant: `at('2026-09-01T14:03')`. */
export const at = (local: string): number => zoneOf(ZONE).toInstant(Date.parse(`${local}:00Z`));

export const REPLY_DOMAIN = 'bell.saltmarsh.example';
export const PASSWORD = 'a long enough one';
export const TOKEN = 'the-token-of-the-course';
let hash: Promise<string> | null = null;

const student = (id: string, more: Partial<Person> = {}): Person => ({
  id,
  firstName: id.toUpperCase(),
  lastName: 'Lind',
  email: `${id}@saltmarsh.example`,
  role: 'student',
  section: null,
  active: true,
  enrolledAt: at('2026-08-31T00:00'),
  paused: false,
  contacts: [],
  fields: {},
  ...more,
});

const item = (id: string, more: Partial<Item>): Item => ({
  id,
  title: id,
  kind: 'quiz',
  group: null,
  points: 20,
  opensAt: null,
  dueAt: null,
  topics: [],
  excused: [],
  extensions: [],
  ...more,
});

export const COURSE: CourseParts = {
  code: 'NAV 120',
  title: 'Coastal Navigation',
  timeZone: ZONE,
  start: '2026-08-31',
  end: '2026-12-18',
  breaks: [],
  groupWeights: null,
  marks: { mastery: 80 },
  settings: { quietHours: null, budget: null },
  people: [student('p1'), student('p2'), student('p3'), student('ada', { role: 'instructor' })],
  items: [item('q1', { title: 'Tide tables quiz', dueAt: at('2026-09-13T23:59') })],
};

/** A class of so many students, `s0` and on, with their instructor. */
export const classOf = (many: number): CourseParts['people'] => [
  ...Array.from({ length: many }, (_, i) => student(`s${i}`)),
  COURSE.people[3]!,
];

export const SENDER = {
  name: 'Dr. A. Lind',
  address: 'ada@saltmarsh.example',
  replyTo: 'office@saltmarsh.example',
  signature: 'A. Lind',
  officeHours: '',
};

export function ruleOf(draft: Record<string, unknown> = {}): Rule {
  const parsed = parseRule({
    id: 'away',
    name: 'Away',
    status: 'on',
    audience: { roles: ['student'] },
    when: { measure: 'daysSinceVisit', is: '>=', value: 5 },
    rhythm: { start: '2026-08-31T09:30', rrule: 'FREQ=DAILY' },
    repeat: { perSpell: 1 },
    steps: [{ deliver: 'send', to: ['student'], wording: 'gentle' }],
    ...draft,
  });
  if (!parsed.ok) throw new Error(JSON.stringify(parsed.problems));
  return parsed.value;
}

export interface StageSetting {
  readonly now: string;
  readonly rules?: readonly Rule[];
  readonly course?: Partial<CourseParts>;
  /** Nothing is asked and nothing goes stale, unless told otherwise. */
  readonly guards?: CourseGuards;
  readonly smtp?: string;
  /** The address under which people reach the server. */
  readonly publicUrl?: string;
  /** Where answers go; to the instructor's own address unless told otherwise. */
  readonly answers?: 'server';
  /** The longest that one message may take on its way to the mail server, in ms. */
  readonly longest?: number;
  /** How long a pass over the mail waits for answers, in ms; unless told otherwise, until a busy machine has given them. */
  readonly patience?: number;
  /** Who says where requests come from; nobody, unless told otherwise. */
  readonly trustedProxy?: readonly string[];
  /** From which size on a file is taken by a thread, in bytes. */
  readonly large?: number;
  /** A folder that already holds a database: a second process on it. */
  readonly folder?: string;
}

export interface TestStage {
  readonly folder: string;
  readonly orm: Orm;
  readonly clock: TestClock;
  readonly services: ConnectionServices;
  readonly dispatcher: Dispatcher;
  readonly app: Express;
  /** Signed in as the course's instructor; every request carries the page's own header. */
  signIn(email?: string, password?: string): Promise<Agent>;
  /** Somebody else with a part in the course, signed in. */
  colleague(role: AccessRole, email?: string, name?: string): Promise<Agent>;
  /** Tells the server what people did, by its ingestion route. */
  tell(events: readonly object[], grades?: readonly object[]): Promise<request.Response>;
  rule(key?: string): Promise<RuleRow>;
  close(): Promise<void>;
}

export type Agent = ReturnType<typeof request.agent>;

const longWork = new LongWork();
/** One for all stages of a process that runs tests, as a thread takes a while to start. They keep no process alive. */
const replays = new ReplayThread(longWork);
const files = new FileReader();

export async function openStage(setting: StageSetting): Promise<TestStage> {
  const folder = setting.folder ?? mkdtempSync(join(tmpdir(), 'zest-bell-test-'));
  if (!hasDatabase(folder)) await makeDatabase(folder);
  const place = placeIn(folder);
  const orm = await openDatabase(place);
  const clock = new TestClock(at(setting.now));
  const mail = setting.smtp
    ? smtpTransport(setting.smtp, setting.longest === undefined ? {} : { longest: setting.longest })
    : noTransport;
  const reading = await openDatabase(place, { reading: true });
  const installationSender = new InstallationSenderNow(reading, NOTHING_FIXED);
  const staging = new Staging({
    orm,
    place,
    secret: 'secret',
    folder,
    ...(setting.large ? { from: setting.large } : {}),
  });
  const services: ConnectionServices = {
    orm,
    reading,
    longWork,
    replays,
    files,
    staging,
    brought: new BroughtFiles(join(folder, 'brought')),
    clock,
    live: new LiveCourses(),
    fixed: NOTHING_FIXED,
    installationSender: installationSender.get,
    refreshInstallationSender: () => installationSender.refresh(),
    mail,
    logger: pino({ level: 'silent' }),
    news: noNews,
    folder: join(folder, 'inbox'),
    exporting: join(folder, 'exports'),
    replyAddress: (tag) => replyAddress('secret', REPLY_DOMAIN, tag),
    forgetMail: () => undefined,
    linkBase: () => setting.publicUrl ?? null,
    seal: sealOf('secret', 'factors'),
    sealOutside: sealOf('secret', 'connections'),
    outgoing: outgoing({ allowPrivate: true }),
    pauseLink: (nudge) => (setting.publicUrl ? `${setting.publicUrl}/p/${pauseToken('secret', nudge)}` : null),
  };
  if (!setting.folder) await setUp(orm, setting, clock.now());
  await installationSender.refresh();
  const dispatcher = makeDispatcher(services, setting.patience ?? 60_000);
  const app = express();
  app.use(holdsToContract);
  const served = createApp(services, dispatcher, {
    secret: 'secret',
    secure: false,
    demo: null,
    isReady: () => true,
    trustedProxy: setting.trustedProxy ?? null,
  });
  app.use(served);
  const signIn = async (email = 'ada@saltmarsh.example', password = PASSWORD) => {
    const agent = request.agent(app).set('sec-fetch-site', 'same-origin');
    await agent.post('/api/v1/session').send({ email, password }).expect(200);
    return agent;
  };
  return {
    folder,
    orm,
    clock,
    services,
    dispatcher,
    app,
    signIn,
    async colleague(role, email = `${role}@saltmarsh.example`, name = role) {
      const em = unguarded(orm);
      const { passwordHash } = await em.findOneOrFail(Account, { email: 'bo@saltmarsh.example' });
      const account = em.create(Account, { name, email, passwordHash, createdAt: 0, sendDelay: 0 });
      await em.flush();
      em.create(Access, { account: account.id, course: 1, role });
      await em.flush();
      await prove(asTx(em), account.id, email, 'machine');
      return signIn(email);
    },
    tell: (events, grades = []) =>
      request(app).post('/api/v1/activity').set('authorization', `Bearer ${TOKEN}`).send({ events, grades }),
    rule: (key = 'away') => unguarded(orm).findOneOrFail(RuleRow, { key }),
    async close() {
      mail.close();
      await staging.close();
      await reading.close();
      await orm.close();
      if (!setting.folder) await dropDatabase(folder);
    },
  };
}

async function setUp(orm: Orm, setting: StageSetting, now: number): Promise<void> {
  // The hash carries its own parameters: these are quick, as nobody attacks a test.
  const passwordHash = await (hash ??= argon2(PASSWORD, { memoryCost: 64, timeCost: 1 }));
  await unguarded(orm).transactional(async (em) => {
    const ada = em.create(Account, {
      name: 'Ada Lind',
      email: 'ada@saltmarsh.example',
      passwordHash,
      createdAt: now,
      sendDelay: 0,
    });
    const bo = em.create(Account, {
      name: 'Bo Quist',
      email: 'bo@saltmarsh.example',
      passwordHash,
      createdAt: now,
      sendDelay: 0,
    });
    const parts = { ...COURSE, ...setting.course };
    const guards = setting.guards ?? { askAbove: 1, staleHours: null };
    const made = {
      sender: { ...SENDER, ...(setting.answers ? { answers: setting.answers } : {}) },
      tokenHash: hashOf(TOKEN),
      guards,
    };
    const id = await withCourse(asTx(em), parts, made, (_tx, course) => Promise.resolve(course));
    await em.flush();
    for (const { id: account, email } of [ada, bo]) await prove(asTx(em), account, email, 'machine');
    em.create(Access, { account: ada.id, course: id, role: 'owner' });
    em.create(WordingRow, {
      course: id,
      key: 'gentle',
      name: 'Gentle check-in',
      purpose: 'support',
      subject: 'A quiet week in {{ course.title }}',
      body: '{{ student.first_name | default: "Hello" }},\n\nit has been {{ student.days_since_visit }}.\n\n{{ sender.signature }}',
    });
    await em.flush();
    for (const rule of setting.rules ?? [ruleOf()]) {
      await insertRule(asTx(em), { id, course: makeCourse(parts) }, rule, ada.id, now);
    }
  });
}

/** The lines of an answer that comes in lines, the result last. */
export async function linesOf<T>(
  asked: request.Test,
): Promise<{ answer: T; lines: readonly Record<string, unknown>[] }> {
  const res = await asked.buffer(true).parse((part, done) => {
    let text = '';
    part.setEncoding('utf8');
    part.on('data', (some: string) => (text += some));
    part.on('end', () => done(null, text));
  });
  const lines = (res.body as string)
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line) as Record<string, unknown>);
  return { answer: lines.at(-1)!['answer'] as T, lines };
}

/** A visit of a person, as the ingestion route takes it. */
export const visit = (person: string, when: string, id = `${person}-${when}`) => ({
  id,
  person,
  kind: 'visit',
  at: new Date(at(when)).toISOString(),
});
