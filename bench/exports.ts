/**
 * Files of a send log with 200,000 nudges, made by the running server: how much memory each takes, and who waits in the meantime.
 * `npm run bench -- exports`.
 */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { fillLog } from './filling.ts';
import { at, memoryOf, probe, startServer } from './running.ts';

const NUDGES = 200_000;
const STUDENTS = 2000;
const SENT = Date.parse('2026-02-02T14:30:00Z');

interface ExportProgress {
  readonly id: string;
  readonly state: string;
  readonly bytes: number;
}

export async function benchExports(): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'zest-bell-bench-'));
  const server = await startServer(join(folder, 'data'));
  try {
    const course = await server.course('BIG 1', STUDENTS);
    fillLog(join(folder, 'data', 'zest-bell.db'), { course, nudges: NUDGES, students: STUDENTS, first: SENT });
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

type BenchServer = Awaited<ReturnType<typeof startServer>>;

async function made(server: BenchServer, course: number, as: string): Promise<number> {
  const begun = (await server.send('POST', `/api/v1/courses/${course}/exports`, { what: 'log', as })) as ExportProgress;
  for (;;) {
    const state = (await server.get(`/api/v1/courses/${course}/exports/${begun.id}`)) as ExportProgress;
    if (state.state === 'done') return state.bytes;
    if (state.state === 'failed') throw new Error(`${as} was not made`);
    await pause(100);
  }
}
