/** The built server in a process of its own, and what is measured of it while it works. */
import { spawn, type ChildProcess } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { once } from 'node:events';
import { setTimeout as pause } from 'node:timers/promises';

/** Items of a course of the bench. */
export const ITEMS = 60;

export async function probe(
  stop: AbortSignal,
  every: number,
  waits: number[],
  ask: () => Promise<unknown>,
): Promise<void> {
  while (!stop.aborted) {
    const from = performance.now();
    await ask();
    waits.push(performance.now() - from);
    await pause(every);
  }
}

export function at(waits: readonly number[], share: number): number {
  const sorted = waits.toSorted((a, b) => a - b);
  return Math.round(sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * share))]!);
}

/** In MiB. */
export function memoryOf(pid: number, what = 'VmRSS'): number {
  const found = new RegExp(`^${what}:\\s+(\\d+) kB`, 'm').exec(readFileSync(`/proc/${pid}/status`, 'utf8'));
  return Number(found![1]) / 1024;
}

export interface RunningServer {
  readonly child: ChildProcess;
  readonly base: string;
  /** Of the account that it began with. */
  cookie(): string;
  get(path: string): Promise<unknown>;
  /** Whatever it answers, to the end. Returns how many bytes that are. */
  whole(path: string): Promise<number>;
  send(method: string, path: string, body: object): Promise<unknown>;
  /** Begins a course from a scenario; gives its id. */
  begin(scenario: object): Promise<number>;
  /** A course of so many students with the items of the bench. */
  course(code: string, students: number): Promise<number>;
  stop(): Promise<void>;
}

/** How long a server may take, in ms, that plays the demo on a machine that has something else to do. */
export const STARTS_WITHIN = 180_000;

/** Starts the built server, as `npm start` gives it, and waits until it is ready at `base`. */
export async function spawnServer(
  data: string,
  more: NodeJS.ProcessEnv = {},
): Promise<{ readonly child: ChildProcess; readonly base: string }> {
  const main = new URL('../packages/server/dist/main.js', import.meta.url).pathname;
  const env = { ...process.env, ZEST_DATA: data, ZEST_PORT: '0', ZEST_LOG: 'error', ...more };
  const child = spawn(process.execPath, ['--max-semi-space-size=32', main], {
    env,
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  let said = '';
  const late = setTimeout(() => child.kill('SIGKILL'), STARTS_WITHIN);
  const base = await new Promise<string>((found, failed) => {
    child.stdout.on('data', (text: Buffer) => {
      said += text.toString();
      const ready = /ready at (\S+)/.exec(said);
      if (ready) found(ready[1]!);
    });
    child.once('exit', () => failed(new Error(`The server ended: ${said}`)));
  }).finally(() => clearTimeout(late));
  child.removeAllListeners('exit');
  return { child, base };
}

/** With a first account; on a folder that was `used`, that one signs in. */
export async function startServer(data: string, used = false): Promise<RunningServer> {
  const { child, base } = await spawnServer(data);
  let cookie = '';
  const answerTo = async (path: string, init: RequestInit = {}) => {
    const headers = { 'sec-fetch-site': 'same-origin', cookie, ...init.headers };
    // A line that was kept open may have ended at this moment: once more.
    const once = () => fetch(`${base}${path}`, { ...init, headers });
    const answer = await once().catch(once);
    if (!answer.ok) throw new Error(`${path}: ${answer.status} ${await answer.text()}`);
    cookie =
      answer.headers
        .getSetCookie()
        .find((c) => c.startsWith('zest-bell='))
        ?.split(';')[0] ?? cookie;
    return answer;
  };
  const ask = async (path: string, init: RequestInit = {}) => (await answerTo(path, init)).text();
  const read = (text: string): unknown => (text === '' ? null : JSON.parse(text));
  const send = async (method: string, path: string, body: object) =>
    read(
      body instanceof Blob
        ? await ask(path, { method, body, headers: { 'content-type': 'application/octet-stream' } })
        : await ask(path, { method, body: JSON.stringify(body), headers: { 'content-type': 'application/json' } }),
    );
  const begin = async (scenario: object) =>
    ((await send('POST', '/api/v1/courses/scenario', new Blob([JSON.stringify(scenario)]))) as { id: number }).id;
  const email = 'ada@saltmarsh.example';
  const password = 'a long enough password';
  if (used) await send('POST', '/api/v1/session', { email, password });
  else await send('POST', '/api/v1/accounts/first', { name: 'Ada Lind', email, password });
  return {
    child,
    base,
    cookie: () => cookie,
    get: async (path) => read(await ask(path)),
    whole: async (path) => (await answerTo(path)).arrayBuffer().then((bytes) => bytes.byteLength),
    send,
    begin,
    async course(code, students) {
      const calendar = { timeZone: 'America/New_York', start: '2026-01-12', end: '2026-05-08' };
      const enrolledAt = '2026-01-12T00:00:00-05:00';
      const person = (i: number) => ({
        id: `s${i}`,
        firstName: 'A',
        lastName: `N${i}`,
        email: `s${i}@x.example`,
        role: 'student',
        enrolledAt,
      });
      const scenario = {
        format: 'zest-bell/scenario@1',
        course: { code, title: code, ...calendar },
        people: Array.from({ length: students }, (_, i) => person(i)),
        items: Array.from({ length: ITEMS }, (_, i) => ({ id: `i${i}`, title: `Item ${i}`, kind: 'page' })),
      };
      return begin(scenario);
    },
    async stop() {
      child.kill('SIGTERM');
      await once(child, 'exit');
    },
  };
}
