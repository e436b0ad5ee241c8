// Runs on PostgreSQL too. Covers demo.
/** The server as a process of its own: how it starts, how it fails to, and what a kill leaves behind. */
import { asTx } from './testing/asTx.ts';
import { spawn, spawnSync, type ChildProcess } from 'node:child_process';
import { existsSync, mkdtempSync, rmSync, writeFileSync, statSync, readFileSync } from 'node:fs';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterEach, beforeAll, beforeEach, expect, test } from '@jest/globals';
import { DAY } from '@zest-bell/core/time';
import { makeCourse, type CourseParts } from '@zest-bell/core/course';
import type { MessageState } from '@zest-bell/core/nudges';
import { Access, Account } from './access/entity.ts';
import { hashPassword } from './access/passwords.ts';
import { MessageRow } from './mail/nudges/entity.ts';
import { MOST_UNCLEAR } from './mail/outbox/dispatcher.ts';
import { backUp } from './cli/backup.ts';
import { CourseRow } from './course/entity.ts';
import { fileIn, openDatabase, readyDatabase } from './wiring/database.ts';
import { bareDatabase, isOnPostgres } from './testing/database.ts';
import { insertRule } from './rules/repository.ts';
import { AttemptRow } from './mail/nudges/attempt.ts';
import { openSmtp } from './testing/smtp.ts';
import { until } from './testing/until.ts';
import { COURSE, PASSWORD, ruleOf, SENDER } from './testing/stage.ts';
import { WordingRow } from './wording/entity.ts';
import { unguarded } from './testing/unguarded.ts';
import { insertCourse } from './testing/insertCourse.ts';

const root = fileURLToPath(new URL('../../..', import.meta.url));
let folder: string;
const children = new Set<ChildProcess>();
/** What runs is what is shipped; nothing is built where that is up to date. */
beforeAll(() => {
  const build = "import('./scripts/steps.mjs').then((steps) => steps.buildIfNeeded())";
  const compiled = spawnSync(process.execPath, ['--eval', build], { cwd: root });
  expect(compiled.status).toBe(0);
});
/** Where the database of these processes is. */
let place: string;
beforeEach(async () => {
  folder = mkdtempSync(join(tmpdir(), 'zest-bell-process-'));
  place = isOnPostgres ? await bareDatabase() : fileIn(folder);
});
/** What is about the file of a database. */
const ofFiles = isOnPostgres ? test.skip : test;
afterEach(() => {
  for (const child of children) child.kill('SIGKILL');
  children.clear();
  rmSync(folder, { recursive: true, force: true });
});

interface RunningProcess {
  readonly child: ChildProcess;
  /** What it said so far. */
  out(): string;
  readonly exit: Promise<number | null>;
}

const onServer = () =>
  isOnPostgres ? { ZEST_DATABASE_URL: place, ZEST_SECRET: 'no secret at all, for this is a test' } : {};

function start(env: Record<string, string>): RunningProcess {
  const child = spawn(process.execPath, ['packages/server/dist/main.js'], {
    cwd: root,
    env: {
      ...process.env,
      NODE_OPTIONS: '',
      ZEST_PORT: '0',
      ZEST_DATA: folder,
      ZEST_DEMO: 'off',
      ...onServer(),
      ...env,
    },
    stdio: ['ignore', 'pipe', 'pipe'],
  });
  children.add(child);
  let said = '';
  child.stdout.on('data', (d: Buffer) => (said += d.toString()));
  child.stderr.on('data', (d: Buffer) => (said += d.toString()));
  return { child, out: () => said, exit: new Promise((resolve) => child.once('exit', resolve)) };
}

async function address(server: RunningProcess): Promise<string> {
  await until(() => /ready at (\S+)/.test(server.out()) || server.child.exitCode !== null);
  if (server.child.exitCode !== null)
    throw new Error(`The server ended with ${server.child.exitCode}: ${server.out()}`);
  return /ready at (\S+)/.exec(server.out())![1]!;
}

test('a data folder that cannot be written is a clear sentence and no stack trace', async () => {
  writeFileSync(join(folder, 'file'), '');
  const server = start({ ZEST_DATA: join(folder, 'file', 'below') });
  expect(await server.exit).toBe(2);
  expect(server.out()).toMatch(/cannot write to its data folder .*below/);
  expect(server.out()).not.toMatch(/\n\s+at /);
});

test('a port that another program has is named, and so is Zest Bell itself', async () => {
  const other = createServer((_req, res) => res.end('hello')).listen(0, '127.0.0.1');
  await new Promise((resolve) => other.once('listening', resolve));
  const busy = start({ ZEST_PORT: String((other.address() as AddressInfo).port) });
  expect(await busy.exit).toBe(2);
  expect(busy.out()).toMatch(/Port \d+ is taken by another program/);
  expect(busy.out()).not.toMatch(/\n\s+at /);
  other.close();

  const first = start({});
  const base = await address(first);
  expect(await (await fetch(`${base}/health`)).json()).toEqual({ application: 'zest-bell', ready: true });
  const second = start({ ZEST_PORT: new URL(base).port });
  expect(await second.exit).toBe(2);
  expect(second.out()).toContain(`Zest Bell is already running at ${base}`);
  first.child.kill('SIGTERM');
  expect(await first.exit).toBe(0);
});

test('a signal that comes twice, as npm passes one on, is one clean stop', async () => {
  const server = start({});
  await address(server);
  for (let n = 0; n < 3; n++) {
    server.child.kill('SIGTERM');
    await new Promise(setImmediate);
  }
  expect(await server.exit).toBe(0);
});

ofFiles('a data folder without its database, or with an empty one, is no new installation', async () => {
  const first = start({});
  await address(first);
  first.child.kill('SIGTERM');
  expect(await first.exit).toBe(0);
  // Nothing lies beside the file of the database any more: anyone who copies it has all.
  const beside = statSync(join(folder, 'zest-bell.db-wal'), { throwIfNoEntry: false });
  expect(beside?.size ?? 0).toBe(0);
  for (const name of ['zest-bell.db', 'zest-bell.db-wal', 'zest-bell.db-shm'])
    rmSync(join(folder, name), { force: true });
  for (const prepare of [() => undefined, () => writeFileSync(join(folder, 'zest-bell.db'), '')]) {
    prepare();
    const again = start({});
    expect(await again.exit).toBe(2);
    expect(again.out()).toMatch(/was used before, but its database is missing or empty/);
  }
});

ofFiles('a first start that is interrupted, at whatever moment, can be made again', async () => {
  for (const [i, signal] of (['SIGKILL', 'SIGINT', 'SIGKILL', 'SIGINT', 'SIGKILL'] as const).entries()) {
    const first = start({});
    // By what it has made so far: its secret, its database, and a little later.
    const made = join(folder, i < 2 ? 'session-secret' : 'zest-bell.db');
    await until(() => existsSync(made) || first.child.exitCode !== null);
    for (let turn = 0; turn < i * 20; turn++) await new Promise(setImmediate);
    first.child.kill(signal);
    await first.exit;
  }
  const last = start({});
  await address(last);
  last.child.kill('SIGTERM');
  expect(await last.exit).toBe(0);
});

ofFiles(
  'a database that is damaged is told of at the start, with what to do, and nothing is sent from it',
  async () => {
    await setUpToday(3);
    // Stopped, so that all of it is in the one file.
    const sound = start({});
    await address(sound);
    sound.child.kill('SIGTERM');
    expect(await sound.exit).toBe(0);
    const file = join(folder, 'zest-bell.db');
    const whole = readFileSync(file);
    const holed = Buffer.from(whole);
    // A page in the middle, and the header.
    for (const [damaged, at] of [
      [holed, Math.floor(whole.length / 2 / 4096) * 4096],
      [Buffer.from(whole), 0],
    ] as const) {
      damaged.fill(0x5a, at, at + 200);
      writeFileSync(file, damaged);
      const server = start({});
      expect(await server.exit).toBe(2);
      expect(server.out()).toMatch(/The database .*zest-bell\.db is damaged \(.*Restore it from a backup/s);
      expect(server.out()).not.toMatch(/\n\s+at /);
    }
  },
);

test('a backup is one file, taken while the server runs, whose mail is stopped', async () => {
  await setUpToday(3);
  const running = start({});
  await address(running);
  const copy = join(folder, 'copy.db');
  await backUp(place, copy, 5);
  await expect(backUp(place, copy, 5)).rejects.toThrow('is there already');
  const orm = await openDatabase(copy);
  expect(await unguarded(orm).find(CourseRow, {})).toMatchObject([{ code: 'NAV 120', stoppedAt: 5, copyFrom: 5 }]);
  await orm.close();
  running.child.kill('SIGTERM');
  await running.exit;
});

/** Sixty students who have never come, in a course that began two weeks ago by the machine's own clock. */
async function setUpToday(students: number): Promise<void> {
  const orm = await readyDatabase(place);
  const day = (offset: number) => new Date(Date.now() + offset * DAY).toISOString().slice(0, 10);
  const template = COURSE.people[0]!;
  const parts: CourseParts = {
    ...COURSE,
    start: day(-14),
    end: day(60),
    people: Array.from({ length: students }, (_, i) => ({
      ...template,
      id: `s${i}`,
      email: `s${i}@saltmarsh.example`,
      enrolledAt: Date.now() - 14 * DAY,
    })),
  };
  const passwordHash = await hashPassword(PASSWORD);
  await unguarded(orm).transactional(async (em) => {
    const ada = em.create(Account, {
      name: 'Ada',
      email: 'ada@saltmarsh.example',
      passwordHash,
      createdAt: Date.now(),
    });
    const id = await insertCourse(asTx(em), parts, { sender: SENDER, tokenHash: 'none' });
    await em.flush();
    em.create(Access, { account: ada.id, course: id, role: 'owner' });
    em.create(WordingRow, {
      course: id,
      key: 'gentle',
      name: 'Gentle',
      purpose: 'support',
      subject: 'Hello',
      body: 'A word to {{ student.first_name }}',
    });
    await em.flush();
    // It looks once, weeks ahead: only ringing it by hand sends anything now.
    const rhythm = { start: `${day(50)}T09:30`, rrule: 'FREQ=WEEKLY;BYDAY=MO' };
    await insertRule(asTx(em), { id, course: makeCourse(parts) }, ruleOf({ rhythm }), ada.id, Date.now());
  });
  await orm.close();
}

async function ring(base: string): Promise<void> {
  const headers = { 'content-type': 'application/json', 'sec-fetch-site': 'same-origin' };
  const body = JSON.stringify({ email: 'ada@saltmarsh.example', password: PASSWORD });
  const signIn = await fetch(`${base}/api/v1/session`, { method: 'POST', headers, body });
  if (!signIn.ok) throw new Error(`Signing in was answered with ${signIn.status}: ${await signIn.text()}`);
  const cookie = signIn.headers.get('set-cookie')!.split(';')[0]!;
  // The answer comes when all is sent; the process is killed before.
  const rung = await fetch(`${base}/api/v1/courses/1/rules/away/ring`, {
    method: 'POST',
    headers: { ...headers, cookie },
    body: '{"confirmed":true}',
  });
  // Only its death may keep it from taking the round.
  if (!rung.ok) throw new Error(`Ringing was answered with ${rung.status}: ${await rung.text()}`);
}

test.each([
  ['started again afterwards', false],
  ['with a second server on the same database all the while', true],
])('killed in the middle of a round, %s: nothing is sent twice, and nothing queued is lost', async (_how, doubled) => {
  const students = 60;
  await setUpToday(students);
  const smtp = await openSmtp();
  smtp.most = 12;
  const env = { ZEST_SMTP_URL: smtp.url };
  const first = start(env);
  const beside = doubled ? start(env) : null;
  if (beside) await address(beside);
  let refused: Error | null = null;
  const ringing = ring(await address(first)).catch((error: unknown) => {
    if (error instanceof Error && !(error instanceof TypeError)) refused = error;
  });
  await until(() => refused !== null || smtp.mails.length === 12);
  if (refused) throw refused as Error;
  first.child.kill('SIGKILL');
  await first.exit;
  await ringing;
  smtp.most = Infinity;

  const second = beside ?? start(env);
  await address(second);
  const orm = await readyDatabase(place);
  const count = (state: MessageState) => unguarded(orm).count(MessageRow, { state });
  // In one question: between two, messages go back from the one to the other.
  const open = { state: { $in: ['queued', 'handing'] as MessageState[] } };
  await until(async () => (await unguarded(orm).count(MessageRow, open)) === 0);

  const delivered = new Map<string, number>();
  for (const { to } of smtp.mails) delivered.set(to[0]!, (delivered.get(to[0]!) ?? 0) + 1);
  expect([...delivered.values()].every((n) => n === 1)).toBe(true);
  const uncertain = await unguarded(orm).find(MessageRow, { state: 'uncertain' });
  // At most one on each line when it was killed; each may have arrived or not, and none is sent again.
  expect(uncertain.length).toBeLessThanOrEqual(MOST_UNCLEAR);
  expect((await count('sent')) + uncertain.length).toBe(students);
  for (const m of await unguarded(orm).find(MessageRow, { state: 'sent' })) expect(delivered.get(m.address)).toBe(1);
  // A log row for every attempt, and one attempt a message.
  expect(await unguarded(orm).count(AttemptRow)).toBe(students);
  await orm.close();
  second.child.kill('SIGTERM');
  await second.exit;
  await smtp.close();
});

/** What belongs to a server alone. */
const ofServers = isOnPostgres ? test : test.skip;

ofServers(
  'lines to the database are cut during rounds: each log line is JSON, and none has anything of the course',
  async () => {
    await setUpToday(60);
    const smtp = await openSmtp();
    const server = start({ ZEST_SMTP_URL: smtp.url, ZEST_LOG: 'debug' });
    const base = await address(server);
    const { Client } = await import('pg');
    const scissors = new Client({ connectionString: place });
    await scissors.connect();
    const cut = () =>
      scissors.query(
        `select pg_terminate_backend(pid) from pg_stat_activity
       where datname = current_database() and application_name = 'zest-bell'`,
      );
    const unsettled = async () => {
      const { rows } = await scissors.query<{ n: string; open: string }>(
        `select count(*) n, count(*) filter (where state in ('queued', 'handing')) open from message`,
      );
      return Number(rows[0]!.n) === 0 || Number(rows[0]!.open) > 0;
    };
    let cuts = 0;
    // A round that lost its line is refused; it is rung again until all that it decided has left.
    for (; await unsettled(); cuts++) {
      const rung = ring(base).catch(() => undefined);
      await cut();
      await Promise.race([rung, until(() => smtp.mails.length > cuts * 5).catch(() => undefined)]);
      await cut();
      await rung;
    }
    expect(cuts).toBeGreaterThan(0);
    await scissors.end();
    server.child.kill('SIGTERM');
    expect(await server.exit).toBe(0);
    const lines = server
      .out()
      .split('\n')
      .filter((line) => line !== '');
    const sentences = /^(Zest Bell is (listening|ready) |ZEST_PUBLIC_URL is not set|people outside reach)/;
    for (const line of lines.filter((l) => !sentences.test(l)))
      expect(JSON.parse(line)).toMatchObject({ msg: expect.stringMatching(/\S/) });
    expect(lines.some((line) => line.includes('"level":50') || line.includes('"level":40'))).toBe(true);
    expect(server.out()).not.toMatch(/@saltmarsh\.example|A word to|"Hello"|Gentle|MaxListeners/);
    for (const { firstName, lastName } of [COURSE.people[0]!])
      expect(server.out()).not.toMatch(new RegExp(`\\b(${firstName}|${lastName})\\b`));
    await smtp.close();
  },
);

test('a server that cannot reach its database, or is told to do nothing that there is, says so and stops', async () => {
  const gone = start({ ZEST_DATABASE_URL: 'postgres://bell:pw@127.0.0.1:9/bell', ZEST_SECRET: 'x'.repeat(32) });
  expect(await gone.exit).toBe(2);
  expect(gone.out()).toMatch(/cannot reach its database “bell” \(.*ECONNREFUSED.*\)/);
  expect(gone.out()).not.toMatch(/pw|\n\s+at /);
  const idle = start({ ZEST_WORK: 'letters' });
  expect(await idle.exit).toBe(2);
  expect(idle.out()).toContain('ZEST_WORK.0 names some of web, rounds, mail, feeds');
});

test('processes by role: one answers, one decides and hands over; each says how it is, and stops cleanly', async () => {
  await setUpToday(3);
  const smtp = await openSmtp();
  const env = { ZEST_SMTP_URL: smtp.url };
  const web = start({ ...env, ZEST_WORK: 'web' });
  const worker = start({ ...env, ZEST_WORK: 'rounds,mail,feeds' });
  const [base, behind] = [await address(web), await address(worker)];
  // Who answers no people has no pages.
  expect((await fetch(`${behind}/health`)).status).toBe(200);
  expect((await fetch(`${behind}/api/v1/session`)).status).toBe(404);
  await ring(base);
  await until(() => smtp.mails.length === 3);
  web.child.kill('SIGTERM');
  worker.child.kill('SIGTERM');
  expect([await web.exit, await worker.exit]).toEqual([0, 0]);
  await smtp.close();
});
