/**
 * A campus at Monday nine: all rounds of 305 courses at once, and what people wait in the meantime. `npm run bench -- campus`, on SQLite with one
 * process, and on PostgreSQL with one and with three; `few` takes a tenth of the courses, `sqlite` leaves PostgreSQL out.
 */
import { fork } from 'node:child_process';
import { readFileSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { openDatabase } from '../packages/server/dist/wiring/database.js';
import { inTransaction } from '../packages/server/dist/platform/database/transaction.js';
import type { Orm } from '../packages/server/dist/platform/database/orm.js';
import { rowsOf } from '../packages/server/dist/platform/database/query.js';
import { installPostgres, startPostgres } from '../scripts/postgres.mjs';
import { few, LARGE, setUp, signIn, SMALL, tokenOf } from './campusData.ts';
import { besideGoal } from './goals.ts';
import { at, memoryOf, probe, spawnServer } from './running.ts';

const SECRET = 'no secret at all, for this is a bench';

/** Processor time of a process, in seconds (proc(5): utime and stime, in ticks of a hundredth). */
function processorTime(pid: number): number {
  const fields = readFileSync(`/proc/${pid}/stat`, 'utf8')
    .replace(/^.*\) /, '')
    .split(' ');
  return (Number(fields[11]) + Number(fields[12])) / 100;
}

interface CampusRun {
  readonly name: string;
  readonly place: string;
  readonly env: Record<string, string>;
  /** What each process does; the first answers people. */
  readonly works: readonly string[];
  /** Processor time of the database, in seconds. */
  readonly database: () => number;
  /** When the last message is to have left, in seconds. */
  readonly lastWithin: number;
}

/** A line that was kept open may have ended at this moment: once more. */
async function read(url: string, headers: Record<string, string> = {}): Promise<string> {
  const once = () => fetch(url, { headers });
  return (await once().catch(once)).text();
}

/** Processor time of one message, in ms, of all processes. */
async function monday({ name, place, env, works, database, lastWithin }: CampusRun): Promise<number> {
  const folder = mkdtempSync(join(tmpdir(), 'zest-bell-campus-'));
  const file = place === '' ? join(folder, 'zest-bell.db') : place;
  const messages = await setUp(file);
  const sink = fork(new URL('./sink.ts', import.meta.url), { execArgv: ['--import', 'tsx'] });
  const port = await new Promise<number>((ready) => sink.once('message', (n) => ready(n as number)));
  let taken = 0;
  sink.on('message', (n) => (taken = n as number));
  const shared = { ...env, ZEST_DEMO: 'off', ZEST_SMTP_URL: `smtp://127.0.0.1:${port}`, ZEST_PUBLIC_URL: '' };
  const processes = [];
  for (const work of works)
    processes.push(await spawnServer(folder, work === '' ? shared : { ...shared, ZEST_WORK: work }));
  const { base } = processes[0]!;
  const cookie = await signIn(base);
  const orm = await openDatabase(file);
  const before = processes.reduce((sum, p) => sum + processorTime(p.child.pid!), database());
  await inTransaction(orm, (tx) =>
    tx.getConnection().execute(`update rule set next_round_at = ${Date.now()}`, [], 'run', tx.getTransactionContext()),
  );
  const from = performance.now();
  const [health, screen]: [number[], number[]] = [[], []];
  const over = new AbortController();
  const asking = [
    probe(over.signal, 50, health, () => read(`${base}/health`)),
    probe(over.signal, 250, screen, () =>
      read(`${base}/api/v1/courses/${1 + Math.floor(Math.random() * SMALL.courses)}/log`, { cookie }),
    ),
  ];
  let memory = 0;
  while (taken < messages && performance.now() - from < 600_000) {
    await pause(50);
    memory = Math.max(memory, ...processes.map((p) => memoryOf(p.child.pid!)));
  }
  const seconds = (performance.now() - from) / 1000;
  over.abort();
  await Promise.all(asking);
  const after = processes.reduce((sum, p) => sum + processorTime(p.child.pid!), database());
  const most = await tellEvents(base, few ? 5 : 10);
  const beside = await eventsBesideRounds(orm, base, few ? 10 : 60);
  for (const { child } of processes) child.kill('SIGTERM');
  await Promise.all(processes.map(({ child }) => new Promise((gone) => child.once('exit', gone))));
  sink.kill();
  await orm.close();
  rmSync(folder, { recursive: true, force: true });
  console.log(`\n${name}: ${taken} of ${messages} messages of ${SMALL.courses + LARGE.courses} courses`);
  besideGoal('the last was taken after', seconds, { unit: 's', atMost: lastWithin });
  besideGoal('/health at the 99th percentile', at(health, 0.99), { unit: 'ms', atMost: 100 });
  besideGoal('a page of the log at the 95th', at(screen, 0.95), { unit: 'ms', atMost: 150 });
  besideGoal('memory of a process', memory, { unit: 'MiB', atMost: 1024 });
  besideGoal('events taken, at most', most, { unit: 'a second', atLeast: 2000 });
  besideGoal('events taken beside rounds, of 2,000 a second that are sent', beside.events, {
    unit: 'a second',
    atLeast: 1980,
  });
  besideGoal('the latest round meanwhile', beside.latest, { unit: 's', atMost: 60 });
  return (1000 * (after - before)) / messages;
}

/**
 * Events that are acknowledged in a second: 40 senders, batches of 50. Each sends its next batch once the last is acknowledged, or no more
 * than `pace` in a second together.
 */
async function tellEvents(base: string, seconds: number, pace = Infinity): Promise<number> {
  const SENDERS = 40;
  const BATCH = 50;
  let told = 0;
  const from = performance.now();
  const until = from + seconds * 1000;
  const ids = `${Date.now()}`;
  await Promise.all(
    Array.from({ length: SENDERS }, async (_, sender) => {
      const course = 1 + (sender % SMALL.courses);
      for (let n = 0; ; n++) {
        // Their first batches are spread over the time between two.
        const due = from + (1000 * BATCH * (n * SENDERS + sender)) / pace;
        if (due > performance.now()) await pause(due - performance.now());
        if (performance.now() >= until) return;
        const events = Array.from({ length: BATCH }, (_, i) => ({
          id: `${ids}-${sender}-${n}-${i}`,
          person: `s${i % SMALL.students}`,
          kind: 'visit',
          at: new Date(Date.now() - 1000).toISOString(),
        }));
        const res = await fetch(`${base}/api/v1/activity`, {
          method: 'POST',
          headers: { 'content-type': 'application/json', authorization: `Bearer ${tokenOf(course)}` },
          body: JSON.stringify({ events }),
        });
        const answer = await res.text();
        if (!res.ok) throw new Error(`Events were answered with ${res.status}: ${answer}`);
        told += events.length;
      }
    }),
  );
  return told / seconds;
}

/** Events at the pace that is asked for while every rule has its round once, spread over the time. Returns also the latest, in seconds. */
async function eventsBesideRounds(
  orm: Orm,
  base: string,
  seconds: number,
): Promise<{ events: number; latest: number }> {
  const over = new AbortController();
  const late: number[] = [];
  let n = 0;
  const rounds = probe(over.signal, 1000, [], () =>
    inTransaction(orm, async (tx) => {
      if (n < seconds) {
        const due = `update rule set next_round_at = ${Date.now()} where id % ${seconds} = ${n++}`;
        await tx.getConnection().execute(due, [], 'run', tx.getTransactionContext());
      }
      const [rule] = await rowsOf<{ first: number }>(tx, tx.getKnex()('rule').min({ first: 'next_round_at' }));
      late.push(Date.now() - rule!.first);
    }),
  );
  const events = await tellEvents(base, seconds, 2000);
  over.abort();
  await rounds;
  return { events, latest: Math.max(0, ...late) / 1000 };
}

export async function benchCampus(): Promise<void> {
  await monday({ name: 'SQLite, one process', place: '', env: {}, works: [''], database: () => 0, lastWithin: 60 });
  if (process.argv.includes('sqlite')) return;
  installPostgres();
  const each: number[] = [];
  for (const works of [[''], ['web', 'rounds,mail,feeds', 'rounds,mail,feeds']]) {
    const cluster = startPostgres({ durable: true });
    try {
      const url = cluster.url();
      const name = works.length === 1 ? 'PostgreSQL, one process' : 'PostgreSQL, one web process and two workers';
      const env = { ZEST_DATABASE_URL: url, ZEST_SECRET: SECRET };
      each.push(
        await monday({ name, place: url, env, works, database: () => cluster.processorTime(), lastWithin: 80 }),
      );
    } finally {
      cluster.end();
    }
  }
  console.log(
    `\nprocessor time of a message with two workers, beside one process  ${(each[1]! / each[0]!).toFixed(2)}×`,
  );
}
