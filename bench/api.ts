/**
 * Every reading request of a course of data set L with 200,000 nudges: the ten that take longest, at first and later; then erasing a
 * student of it, and who waits in the meantime. `npm run bench -- api`.
 */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { API_BASE, endpoints } from '@zest-bell/core/contract';
import { DAY } from '@zest-bell/core/time';
import { benchCourse, benchHistory, LARGE } from './data.ts';
import { fillHistory, fillLog, saveColumns } from './filling.ts';
import { besideGoal } from './goals.ts';
import { at, probe, startServer } from './running.ts';
import { scenarioOf } from './scenario.ts';

const NUDGES = 200_000;
/** What a request may take at first and later, and erasing a student, in ms. */
const FIRST = 400;
const LATER = 100;
const ERASING = 2000;
/** How long `/health` may take while a student is erased, in ms: nothing may hold the main thread for longer than 20 ms. */
const TURN = 20;
const RUNS = 5;
const SLOWEST = 10;

export async function benchApi(): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'zest-bell-bench-'));
  let server = await startServer(join(folder, 'data'));
  try {
    const given = benchCourse(LARGE);
    const course = await server.begin(scenarioOf(given));
    const file = join(folder, 'data', 'zest-bell.db');
    await server.stop();
    fillHistory(file, course, given, benchHistory(given, LARGE));
    fillLog(file, { course, nudges: NUDGES, students: LARGE.students, first: given.calendar.start + DAY });
    await saveColumns(file, course);
    // As after a start: what was computed before is not there.
    server = await startServer(join(folder, 'data'), true);
    const named: Readonly<Record<string, string>> = { course: String(course), student: 's7', item: 'i3', nudge: '77' };
    // A request that asks for what only its screen knows is asked by that screen’s own bench.
    const asked = endpoints.flatMap(({ module, name, endpoint: e }) => {
      const open = [...e.path.matchAll(/\{(\w+)\}/g)].map((m) => m[1]!);
      const isOpen = open.every((n) => Object.hasOwn(named, n)) && open.includes('course');
      if (e.method !== 'GET' || !isOpen || ['key', 'open'].includes(e.needs)) return [];
      return [
        { what: `${module}.${name}`, path: `${API_BASE}${e.path.replace(/\{(\w+)\}/g, (_, n: string) => named[n]!)}` },
      ];
    });
    await server.whole(`${API_BASE}/courses/${course}`);
    const slow: { what: string; first: number; later: number }[] = [];
    let left = 0;
    for (const { what, path } of asked) {
      try {
        const taken: number[] = [];
        for (let i = 0; i < RUNS; i++) {
          const from = performance.now();
          await server.whole(path);
          taken.push(performance.now() - from);
        }
        slow.push({ what, first: taken[0]!, later: at(taken.slice(1), 0.5) });
      } catch {
        left++;
      }
    }
    console.log(
      `${slow.length} reading requests of ${LARGE.name} with ${NUDGES} nudges (${left} want more than a path).`,
    );
    for (const s of slow.sort((a, b) => b.first - a.first).slice(0, SLOWEST)) {
      besideGoal(`${s.what}, at first`, s.first, { unit: 'ms', atMost: FIRST });
      besideGoal(`${s.what}, later`, s.later, { unit: 'ms', atMost: LATER });
    }

    const waits: number[] = [];
    const watch = new AbortController();
    const watching = probe(watch.signal, 20, waits, () => server.whole('/health'));
    const from = performance.now();
    await server.send('POST', `${API_BASE}/courses/${course}/students/s7/erase`, { student: 's7' });
    for (;;) {
      const [erased] = (await server.get(`${API_BASE}/courses/${course}/erased`)) as { done: boolean }[];
      if (erased!.done) break;
      await pause(50);
    }
    watch.abort();
    await watching;
    besideGoal('erasing a student of it', performance.now() - from, { unit: 'ms', atMost: ERASING });
    besideGoal('/health meanwhile, 99th percentile', at(waits, 0.99), { unit: 'ms', atMost: TURN });
    console.log(`  ${'/health meanwhile, longest'.padEnd(66)} ${at(waits, 1)} ms`);
  } finally {
    await server.stop();
    rmSync(folder, { recursive: true, force: true });
  }
}
