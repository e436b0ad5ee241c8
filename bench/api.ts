/**
 * Every reading request of a course of data set L with 200,000 nudges: the ten that take longest, each as a share of what opening a
 * place may take; then erasing a student of it, and who waits in the meantime. `npm run bench -- api`.
 */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { API_BASE, endpoints } from '@zest-bell/core/contract';
import { DAY } from '@zest-bell/core/time';
import { benchCourse, benchHistory, LARGE } from './data.ts';
import { fillHistory, fillLog } from './filling.ts';
import { at, probe, startServer } from './running.ts';

const NUDGES = 200_000;
/** What opening a place may take, in ms. */
const MAY_TAKE = 700;
const RUNS = 5;
const SLOWEST = 10;

export async function benchApi(): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'zest-bell-bench-'));
  const server = await startServer(join(folder, 'data'));
  try {
    const given = benchCourse(LARGE);
    const { code, title, timeZone, start, end, people, items } = given;
    const stamp = (instant: number) => new Date(instant).toISOString();
    const scenario = {
      format: 'zest-bell/scenario@1',
      course: { code, title, timeZone, start, end },
      people: people.map(({ id, firstName, lastName, email, role }) => ({
        id,
        firstName,
        lastName,
        email,
        role,
        enrolledAt: stamp(given.calendar.start),
      })),
      items: items.map(({ id, title: name, kind, points, dueAt }) => ({
        id,
        title: name,
        kind,
        ...(points === null ? {} : { points }),
        dueAt: stamp(dueAt!),
      })),
    };
    const made = await server.send('POST', `${API_BASE}/courses/scenario`, new Blob([JSON.stringify(scenario)]));
    const course = (made as { id: number }).id;
    const file = join(folder, 'data', 'zest-bell.db');
    fillHistory(file, course, given, benchHistory(given, LARGE));
    fillLog(file, { course, nudges: NUDGES, students: LARGE.students, first: given.calendar.start + DAY });
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
    await server.text(`${API_BASE}/courses/${course}`);
    const slow: { what: string; first: number; later: number }[] = [];
    let left = 0;
    for (const { what, path } of asked) {
      try {
        const taken: number[] = [];
        for (let i = 0; i < RUNS; i++) {
          const from = performance.now();
          await server.text(path);
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
    const share = (ms: number) => (ms / MAY_TAKE).toFixed(2);
    for (const s of slow.sort((a, b) => b.first - a.first).slice(0, SLOWEST))
      console.log(`  ${s.what.padEnd(28)} ${share(s.first)} of ${MAY_TAKE} ms at first, ${share(s.later)} later`);

    const waits: number[] = [];
    const watch = new AbortController();
    const watching = probe(watch.signal, 20, waits, () => server.text('/health'));
    const from = performance.now();
    await server.send('POST', `${API_BASE}/courses/${course}/students/s7/erase`, { student: 's7' });
    for (;;) {
      const [erased] = (await server.get(`${API_BASE}/courses/${course}/erased`)) as { done: boolean }[];
      if (erased!.done) break;
      await pause(50);
    }
    watch.abort();
    await watching;
    const rounds = ((performance.now() - from) / MAY_TAKE).toFixed(1);
    console.log(
      `Erasing a student of it takes ${rounds} of ${MAY_TAKE} ms; /health meanwhile ${at(waits, 0.99)} ms, longest ${at(waits, 1)} ms`,
    );
  } finally {
    await server.stop();
    rmSync(folder, { recursive: true, force: true });
  }
}
