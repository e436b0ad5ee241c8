/**
 * Many pages at once, and whether the server still answers others: Today of 300 courses asked for by one account, by 300, and 1,200 times
 * over 60 lines on which nobody reads. `npm run bench -- pages`; `few` takes a tenth of the courses.
 */
import { fork } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { connect } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { once } from 'node:events';
import { setTimeout as pause } from 'node:timers/promises';
import { readingTokenOf, setUp, signIn, SMALL } from './campusData.ts';
import { at, probe, spawnServer } from './running.ts';

/** What a process of its own asks for, so that its work does not count as the server's. */
export interface Crowd {
  readonly base: string;
  readonly kind: 'one account' | 'an account each' | 'pipelined';
  readonly cookie: string;
}

const LINES = 60;
const ON_A_LINE = 20;

const today = (course: number) => `/api/v1/courses/${course}/today`;

/** Asks as a crowd; returns how often each status came. */
export async function askAs({ base, kind, cookie }: Crowd): Promise<Record<string, number>> {
  const statuses: Record<string, number> = {};
  if (kind === 'pipelined') {
    const { hostname, port } = new URL(base);
    const sockets = Array.from({ length: LINES }, () => connect(Number(port), hostname));
    await Promise.all(sockets.map((socket) => once(socket, 'connect')));
    const request = (n: number) =>
      `GET ${today(1 + (n % SMALL.courses))} HTTP/1.1\r\nHost: ${hostname}\r\nCookie: ${cookie}\r\n\r\n`;
    for (const [line, socket] of sockets.entries())
      socket.pause().write(Array.from({ length: ON_A_LINE }, (_, i) => request(line * ON_A_LINE + i)).join(''));
    await pause(5000);
    for (const socket of sockets) socket.destroy();
    return statuses;
  }
  await Promise.all(
    Array.from({ length: SMALL.courses }, async (_, i) => {
      const headers: Record<string, string> =
        kind === 'one account' ? { cookie } : { authorization: `Bearer ${readingTokenOf(i + 1)}` };
      const answer = await fetch(`${base}${today(i + 1)}`, { headers });
      await answer.text();
      statuses[answer.status] = (statuses[answer.status] ?? 0) + 1;
    }),
  );
  return statuses;
}

export async function benchPages(): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'zest-bell-pages-'));
  await setUp(join(folder, 'zest-bell.db'));
  const { child, base } = await spawnServer(folder, { ZEST_DEMO: 'off', ZEST_PUBLIC_URL: '' });
  const cookie = await signIn(base);
  console.log('\nMany pages at once: /health in ms, beside the goals of 100 (p99) and 300 (worst)');
  for (const kind of ['one account', 'an account each', 'pipelined'] as const) {
    const [health, clock]: [number[], number[]] = [[], []];
    const over = new AbortController();
    const probes = [
      probe(over.signal, 10, health, () => fetch(`${base}/health`).then((r) => r.text())),
      probe(over.signal, 50, clock, () => fetch(`${base}/api/v1/clock`, { headers: { cookie } }).then((r) => r.text())),
    ];
    const crowd = fork(new URL('./crowd.ts', import.meta.url), { execArgv: ['--import', 'tsx'] });
    await once(crowd, 'message');
    const from = performance.now();
    crowd.send({ base, kind, cookie } satisfies Crowd);
    const [statuses] = (await once(crowd, 'message')) as [Record<string, number>];
    const seconds = ((performance.now() - from) / 1000).toFixed(1);
    over.abort();
    await Promise.all(probes);
    const worst = (waits: number[]) => `p99 ${at(waits, 0.99)} worst ${at(waits, 1)}`;
    console.log(
      `  ${kind.padEnd(16)} ${seconds} s  /health ${worst(health)}  clock ${worst(clock)}  ${JSON.stringify(statuses)}`,
    );
  }
  child.kill('SIGTERM');
  await once(child, 'exit');
  rmSync(folder, { recursive: true, force: true });
}
