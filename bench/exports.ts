/**
 * Files of a send log with 200,000 nudges, made by the running server: how much memory each takes, and who waits meanwhile.
 * `npm run bench -- exports`.
 */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import Database from 'libsql';
import { at, memoryOf, probe, startServer } from './running.ts';

const NUDGES = 200_000;
const STUDENTS = 2000;
const SENT = Date.parse('2026-02-02T14:30:00Z');

interface State {
  readonly id: string;
  readonly state: string;
  readonly bytes: number;
}

export async function benchExports(): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'zest-bell-bench-'));
  const server = await startServer(join(folder, 'data'));
  try {
    const course = await server.course('BIG 1', STUDENTS);
    fill(join(folder, 'data', 'zest-bell.db'), course);
    await server.get(`/api/v1/courses/${course}/log?take=1`);
    console.log(`${NUDGES} nudges, each with a message and its attempt.`);
    const say = (what: string, value: string) => console.log(`${what.padEnd(34)} ${value}`);
    for (const as of (process.argv.find((a) => a.startsWith('as='))?.slice(3) ?? 'csv,xlsx,jsonl,mbox,eml').split(
      ',',
    )) {
      await pause(500);
      const idle = memoryOf(server.child.pid!);
      const health: number[] = [];
      let most = 0;
      const watch = new AbortController();
      const watching = [
        probe(watch.signal, 20, health, () => server.get('/health')),
        probe(watch.signal, 50, [], () => {
          most = Math.max(most, memoryOf(server.child.pid!));
          return Promise.resolve();
        }),
      ];
      const bytes = await made(server, course, as);
      watch.abort();
      await Promise.all(watching);
      const size = `${Math.round(bytes / 2 ** 20)} MiB`;
      say(
        `${as}, ${size}`,
        `${Math.round(most - idle)} MiB more memory at most; /health ${at(health, 0.99)} ms, longest ${at(health, 1)} ms`,
      );
    }
  } finally {
    await server.stop();
    rmSync(folder, { recursive: true, force: true });
  }
}

type Server = Awaited<ReturnType<typeof startServer>>;

async function made(server: Server, course: number, as: string): Promise<number> {
  const begun = (await server.send('POST', `/api/v1/courses/${course}/exports`, { what: 'log', as })) as State;
  for (;;) {
    const state = (await server.get(`/api/v1/courses/${course}/exports/${begun.id}`)) as State;
    if (state.state === 'done') return state.bytes;
    if (state.state === 'failed') throw new Error(`${as} was not made`);
    await pause(100);
  }
}

/** Straight into the file: what a round and the mail after it leave behind. */
function fill(file: string, course: number): void {
  const db = new Database(file);
  db.exec('pragma busy_timeout = 20000');
  const words = 'How are things going? If something is in the way, reply to this message. '.repeat(6);
  const nudge = db.prepare(
    `insert into nudge (id, course, idempotency_key, rule, rule_version, student, round_at, step, spell_start, state, to_student,
       wording, subject, last_at, evidence) values (?, ?, ?, 'away', 1, ?, ?, 0, ?, 'sent', 1, 'gentle', 'A quiet week', ?, '[]')`,
  );
  const message = db.prepare(
    `insert into message (id, nudge, course, kind, lead, reader, name, address, state, send_at, attempts, settled_at)
       values (?, ?, ?, 'student', 1, 'student', ?, ?, 'sent', ?, 1, ?)`,
  );
  const attempt = db.prepare(
    `insert into attempt (course, message, nudge, at, outcome, response, message_id, recipient_name, address, from_address, reply_to,
       subject, body, html, files, evidence) values (?, ?, ?, ?, 'sent', '250 OK', ?, ?, ?, 'ada@x.example', 'ada@x.example',
       'A quiet week', ?, ?, '[]', '[]')`,
  );
  db.exec('begin');
  for (let i = 1; i <= NUDGES; i++) {
    const [who, when] = [`s${i % STUDENTS}`, SENT + i * 30_000];
    nudge.run([i, course, `bench ${i}`, who, when, when, when]);
    message.run([i, i, course, who, `${who}@x.example`, when, when]);
    attempt.run([course, i, i, when, `<${i}@x.example>`, who, `${who}@x.example`, words, `<p>${words}</p>`]);
  }
  db.exec('commit');
  db.close();
}
