/**
 * A term of fifteen weeks in 305 courses, day by day by a clock of its own: what people did, the rounds of Monday with their mail, and
 * pages that are looked at in the meantime. Prints week by week what is held in memory and on the disk, and how long people wait: from the
 * fourth week on that should stay as it is. Then one course with three terms of history. `npm run soak`; `few` takes a tenth of the courses.
 */
import { fork, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { mkdtempSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { DAY, HOUR, type Instant } from '@zest-bell/core/time';
import { LARGE, setUp, signIn, SMALL, tokenOf } from './campusData.ts';
import { at, memoryOf, probe } from './running.ts';
import type { SoakStep, SoakReport } from './soakServer.ts';

const WEEKS = 15;
/** A Monday, at noon in London: eight in the morning in the courses' zone. */
const START = Date.UTC(2026, 7, 31, 12);
/** One student in so many stays away for a week, so that each rule finds as many. */
const ONE_IN = 50;
/** How many of what is looked at are asked for in a week. */
const PAGES_A_WEEK = 60;
const PAGES = ['today', 'lookout/log', 'lookout/activity', 'lookout/overview', 'log', 'tray'];
const COURSES = SMALL.courses + LARGE.courses;
const studentsOf = (course: number): number => (course <= SMALL.courses ? SMALL.students : LARGE.students);
/** One course of several terms. */
const LONG = { students: 300, terms: 3 };

/** Whether a student stays away on a day: from a Tuesday to the Monday after it, another one in fifty each time. */
const isAway = (course: number, student: number, dayNumber: number): boolean =>
  (student * 31 + course * 17 + Math.floor((dayNumber - 1) / 7) * 7) % ONE_IN === 0;

class SoakServer {
  readonly child: ChildProcess;
  base = '';
  cookie = '';

  constructor(folder: string, smtp: string, from: Instant) {
    this.child = fork(new URL('./soakServer.ts', import.meta.url), [folder, smtp, String(from)], {
      execArgv: ['--expose-gc', '--max-semi-space-size=32', '--import', 'tsx'],
    });
  }

  async heard(): Promise<SoakReport> {
    const [said] = (await once(this.child, 'message')) as [SoakReport];
    return said;
  }

  async step(step: SoakStep): Promise<Extract<SoakReport, { took: number }>> {
    const heard = this.heard();
    this.child.send(step);
    return (await heard) as Extract<SoakReport, { took: number }>;
  }

  async tell(course: number, events: readonly object[]): Promise<void> {
    const answer = await fetch(`${this.base}/api/v1/activity`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', authorization: `Bearer ${tokenOf(course)}` },
      body: JSON.stringify({ events }),
    });
    const text = await answer.text();
    if (!answer.ok || !text.includes('"refused":[]'))
      throw new Error(`Events were answered with ${answer.status}: ${text}`);
  }

  async look(path: string): Promise<number> {
    const from = performance.now();
    const answer = await fetch(`${this.base}${path}`, { headers: { cookie: this.cookie } });
    const text = await answer.text();
    if (!answer.ok) throw new Error(`${path} was answered with ${answer.status}: ${text}`);
    return performance.now() - from;
  }
}

/** What everybody who is there did on a day: each visits once, in the night before it. `sizes`: the students of the courses. */
async function visits(server: SoakServer, dayNumber: number, sizes: readonly number[]): Promise<void> {
  const dayStart = START + dayNumber * DAY;
  await server.step({ now: dayStart, what: 'nothing' });
  const one = async (course: number) => {
    const events = Array.from({ length: sizes[course - 1]! }, (_, s) => s)
      .filter((s) => !isAway(course, s, dayNumber))
      .map((s) => ({
        id: `${dayNumber}-${s}`,
        person: `s${s}`,
        kind: 'visit',
        at: new Date(dayStart - 8 * HOUR - s * 1000).toISOString(),
      }));
    for (let i = 0; i < events.length; i += 500) await server.tell(course, events.slice(i, i + 500));
  };
  const left = sizes.map((_, i) => i + 1);
  await Promise.all(
    Array.from({ length: 8 }, async () => {
      for (let course = left.pop(); course !== undefined; course = left.pop()) await one(course);
    }),
  );
}

/** Rounds (of 9:30, in summer and in winter) and mail of a day, after what came in for it. Returns how long the rounds took, in ms. */
const ring = async (server: SoakServer, dayNumber: number): Promise<number> =>
  (await server.step({ now: START + dayNumber * DAY + 3 * HOUR, what: 'rounds' })).took;

const sizeOf = (file: string): number => statSync(file).size / 2 ** 20;
const median = (numbers: readonly number[]): number => numbers.toSorted((a, b) => a - b)[numbers.length >> 1]!;

async function term(server: SoakServer, folder: string, taken: () => number): Promise<void> {
  const sizes = Array.from({ length: COURSES }, (_, i) => studentsOf(i + 1));
  console.log(
    'week  messages  held, MiB  process, MiB  database, MiB  log, MiB  rounds, s  /health p99, ms  slowest page, ms',
  );
  for (let week = 0; week < WEEKS; week++) {
    const before = taken();
    const [health, pages]: [number[], number[]] = [[], []];
    const over = new AbortController();
    const asking = [
      probe(over.signal, 50, health, () => server.look('/health')),
      probe(over.signal, 50, [], async () => {
        if (pages.length >= PAGES_A_WEEK) return;
        const course = 1 + ((pages.length * 37 + week) % COURSES);
        pages.push(await server.look(`/api/v1/courses/${course}/${PAGES[pages.length % PAGES.length]!}`));
      }),
    ];
    let rounds = 0;
    for (let d = 7 * week; d < 7 * week + 7; d++) {
      await visits(server, d, sizes);
      rounds += await ring(server, d);
    }
    over.abort();
    await Promise.all(asking);
    const { held } = await server.step({ now: START + (7 * week + 6) * DAY + 12 * HOUR, what: 'nightly' });
    const file = join(folder, 'zest-bell.db');
    const columns = [
      week + 1,
      taken() - before,
      Math.round(held),
      Math.round(memoryOf(server.child.pid!)),
      Math.round(sizeOf(file)),
      Math.round(sizeOf(`${file}-wal`)),
      (rounds / 1000).toFixed(1),
      at(health, 0.99),
      Math.round(Math.max(...pages)),
    ];
    console.log(columns.map((c, i) => String(c).padStart([4, 8, 9, 12, 13, 8, 9, 15, 16][i]!)).join('  '));
  }
}

/** What Students asks for. */
const STUDENTS = ['lookout/log', 'lookout/rules?rules=away0', 'lookout/activity'];

/** The medians of the last five weeks of each term: a round of all rules, and what Students asks for. */
async function history(server: SoakServer): Promise<void> {
  const first = { rounds: 0, students: 0 };
  for (let term = 0; term < LONG.terms; term++) {
    const [rounds, students]: [number[], number[]] = [[], []];
    for (let week = term * WEEKS; week < (term + 1) * WEEKS; week++) {
      for (let d = 7 * week; d < 7 * week + 7; d++) {
        await visits(server, d, [LONG.students]);
        const took = await ring(server, d);
        if (d % 7 === 0 && week >= (term + 1) * WEEKS - 5) rounds.push(took);
      }
      let all = 0;
      for (const page of STUDENTS) all += await server.look(`/api/v1/courses/1/${page}`);
      students.push(all);
    }
    const found = { rounds: median(rounds), students: median(students.slice(-5)) };
    if (term === 0) Object.assign(first, found);
    const times = (what: keyof typeof first) => `${(found[what] / first[what]).toFixed(2)} times the first`;
    console.log(`after ${term + 1} terms: a round ${times('rounds')}, Students ${times('students')}`);
  }
}

/** A server of its own over courses of so many students, for so many weeks. */
async function withServer(
  weeks: number,
  sizes: readonly number[] | undefined,
  work: (server: SoakServer, folder: string, taken: () => number) => Promise<void>,
): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'zest-bell-soak-'));
  const sink = fork(new URL('./sink.ts', import.meta.url), { execArgv: ['--import', 'tsx'] });
  let server: SoakServer | null = null;
  try {
    const [port] = (await once(sink, 'message')) as [number];
    let taken = 0;
    sink.on('message', (n) => (taken = n as number));
    const end = START + 7 * weeks * DAY;
    await setUp(join(folder, 'zest-bell.db'), { start: START, end, firstRound: START }, sizes);
    server = new SoakServer(folder, `smtp://127.0.0.1:${port}`, START);
    const said = await server.heard();
    if ('port' in said) server.base = `http://127.0.0.1:${said.port}`;
    server.cookie = await signIn(server.base);
    await work(server, folder, () => taken);
  } finally {
    server?.child.kill();
    sink.kill();
    rmSync(folder, { recursive: true, force: true });
  }
}

await withServer(WEEKS, undefined, term);
await withServer(LONG.terms * WEEKS, [LONG.students], history);
