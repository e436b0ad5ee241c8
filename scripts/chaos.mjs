// A campus in trouble: two web processes behind nginx and two workers on PostgreSQL, of which one is killed every few seconds; the
// database is restarted, the line of one worker to it is cut, another worker is stopped for more than a minute and goes on, and two of
// the processes have clocks that are a minute off. Nothing may be lost or come twice: `npm run chaos`. Needs a build; takes four minutes.
import { spawn, spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { connect, createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { INSTRUCTOR, setUpKnots } from '../e2e/knotsCourse.ts';
import { readyDatabase } from '../packages/server/dist/wiring/database.js';
import { mailCame, openSink } from './harm.mjs';
import { installPostgres, startPostgres } from './postgres.mjs';
import { apt, root } from './steps.mjs';

const STUDENTS = 25;
const COURSES = 4;
const MINUTES = Number(process.argv[2] ?? 3);
const NGINX = '/usr/sbin/nginx';
const SECRET = 'no secret at all, for this is a test';

installPostgres();
if (!existsSync(NGINX)) apt('nginx-light', 'nginx');
const folder = mkdtempSync(join(tmpdir(), 'zest-bell-chaos-'));
const cluster = startPostgres({ durable: true });
const sink = await openSink();

/** A line to the database that can be cut: open connections hang, and new ones are refused. */
const lines = new Set();
let isCut = false;
const proxy = createServer((near) => {
  if (isCut) return near.destroy();
  const far = connect(join(cluster.folder, '.s.PGSQL.5432'));
  lines.add({ near, far });
  for (const [one, other] of [
    [near, far],
    [far, near],
  ]) {
    one.on('data', (part) => isCut || other.write(part));
    one.on('close', () => other.destroy());
    one.on('error', () => undefined);
  }
});
await new Promise((ready) => proxy.listen(0, '127.0.0.1', ready));
const byProxy = `postgresql://app@127.0.0.1:${proxy.address().port}/postgres`;

/** A clock that is off, before anything of the server is loaded. */
const clockOff = (ms) => {
  const file = join(folder, `clock${ms}.mjs`);
  writeFileSync(file, `const now = Date.now; Date.now = () => now() + ${ms};`);
  return ['--import', file];
};

const SEATS = [
  { port: 4171, work: 'web', url: cluster.url(), args: clockOff(60_000) },
  { port: 4172, work: 'web', url: cluster.url(), args: [] },
  { port: 4181, work: 'rounds,mail,feeds', url: byProxy, args: clockOff(-60_000) },
  { port: 4182, work: 'rounds,mail,feeds', url: cluster.url(), args: [] },
];

function start(seat) {
  const child = spawn(process.execPath, [...seat.args, 'packages/server/dist/main.js'], {
    cwd: root,
    env: {
      ...process.env,
      NODE_OPTIONS: '',
      ZEST_PORT: String(seat.port),
      ZEST_WORK: seat.work,
      ZEST_DATA: folder,
      ZEST_DATABASE_URL: seat.url,
      ZEST_SECRET: SECRET,
      ZEST_LOG: 'error',
      ZEST_DEMO: 'off',
      ZEST_PUBLIC_URL: 'http://bell.saltmarsh.example',
      ZEST_SMTP_URL: sink.url,
    },
    stdio: ['ignore', 'ignore', 'pipe'],
  });
  child.stderr.on('data', (part) => (seat.said = `${seat.said ?? ''}${part}`.slice(-2000)));
  child.gone = new Promise((resolve) => child.once('exit', resolve));
  seat.child = child;
}

/** The file in deploy/, without TLS and on a port of this machine's own. */
function startNginx() {
  const server = readFileSync(join(root, 'deploy/nginx.conf'), 'utf8')
    .replace(/server \{\s*listen 80;[^}]*\}/, '')
    .replace(/listen 443 ssl;/, 'listen 127.0.0.1:4170;')
    .replace(/^\s*ssl_.*$/gm, '');
  const conf = join(folder, 'nginx.conf');
  const own = ['error_log stderr crit;', `pid ${folder}/nginx.pid;`, 'daemon off;', 'events {}'];
  const paths = ['client_body', 'proxy', 'fastcgi', 'uwsgi', 'scgi'].map((n) => `${n}_temp_path ${folder}/${n};`);
  writeFileSync(conf, `${own.join('\n')}\nhttp {\naccess_log off;\n${paths.join('\n')}\n${server}\n}\n`);
  const tried = spawnSync(NGINX, ['-t', '-q', '-c', conf]);
  if (tried.status !== 0) throw new Error(String(tried.stderr));
  return spawn(NGINX, ['-c', conf], { stdio: ['ignore', 'ignore', 'inherit'] });
}

const BASE = 'http://127.0.0.1:4170';
const headers = { 'content-type': 'application/json', 'sec-fetch-site': 'same-origin' };
let cookie = null;
const answers = new Map();
const count = (what) => answers.set(what, (answers.get(what) ?? 0) + 1);

/** Asks whichever web process nginx finds; what is answered with trouble is named trouble. */
async function ask(path, body) {
  try {
    const init = body === undefined ? {} : { method: 'POST', body: JSON.stringify(body) };
    const answer = await fetch(`${BASE}/api/v1${path}`, {
      ...init,
      headers: { ...headers, ...(cookie ? { cookie } : {}) },
    });
    const text = await answer.text();
    if (answer.ok) count('answered');
    else count(`refused as ${/"code":"(\w+)"/.exec(text)?.[1] ?? answer.status}`);
    return answer;
  } catch {
    count('not reached');
    return null;
  }
}

await setUpKnots(
  cluster.url(),
  Array.from({ length: STUDENTS }, (_, i) => `S${i}`),
  {},
  { courses: COURSES, to: ['student', 'address:coach@saltmarsh.example'] },
);
for (const seat of SEATS) start(seat);
const nginx = startNginx();
const health = async (port) => (await fetch(`http://127.0.0.1:${port}/health`).catch(() => null))?.ok ?? false;
for (const { port } of SEATS) while (!(await health(port))) await wait(100);
const signedIn = await ask('/session', INSTRUCTOR);
cookie = signedIn.headers.get('set-cookie').split(';')[0];

const until = Date.now() + MINUTES * 60_000;
let isOver = false;
const harm = [];
const note = (what) => harm.push(what);

/** Rings, reads, and rounds that come due. */
const life = (async () => {
  for (let n = 0; !isOver; n++) {
    const course = 1 + (n % COURSES);
    await ask(`/courses/${course}/rules/quiet/ring`, { confirmed: true });
    await ask(`/courses/${course}/log`);
    await wait(400);
  }
})();

const kills = (async () => {
  while (!isOver) {
    await wait(3000 + Math.random() * 4000);
    const standing = SEATS.filter((s) => !s.isStopped && s.child.exitCode === null);
    const seat = standing[Math.floor(Math.random() * standing.length)];
    if (!seat || isOver) continue;
    seat.child.kill('SIGKILL');
    await seat.child.gone;
    note('kill');
    start(seat);
  }
})();

// The database is restarted twice, the line is cut for ten seconds, and a worker sleeps for longer than its lease.
const rest = (MINUTES * 60_000) / 6;
await wait(rest);
cluster.restart();
note('database restarted');
const [, , , sleeper] = SEATS;
sleeper.isStopped = true;
sleeper.child.kill('SIGSTOP');
note('worker stopped');
await wait(rest);
isCut = true;
note('line cut');
await wait(10_000);
isCut = false;
for (const { near } of lines) near.destroy();
await wait(Math.max(0, 65_000 - rest - 10_000));
sleeper.child.kill('SIGCONT');
sleeper.isStopped = false;
note('worker went on');
await wait(Math.max(0, until - Date.now()) / 2);
cluster.restart();
note('database restarted');
await wait(Math.max(0, until - Date.now()));
isOver = true;
await Promise.all([life, kills]);

const orm = await readyDatabase(cluster.url());
const run = async (sql) => orm.em.getConnection().execute(sql);
for (const end = Date.now() + 150_000; Date.now() < end; await wait(250)) {
  const [{ n }] = await run("select count(*) as n from message where state in ('queued', 'handing')");
  if (Number(n) === 0) break;
}
const codes = [];
for (const seat of SEATS) {
  seat.child.kill('SIGTERM');
  const code = await seat.child.gone;
  codes.push(code);
  if (code !== 0) console.log(`${seat.port} ended with ${code}: ${(seat.said ?? '').slice(-600)}`);
}
nginx.kill('SIGTERM');
const mail = await mailCame(run, sink.arrived);
const bare = Number(
  (await run('select count(*) as n from nudge n where (select count(*) from message m where m.nudge = n.id) <> 2'))[0]
    .n,
);
const twice = (
  await run('select rule, round_at, student from nudge group by rule, course, round_at, student having count(*) > 1')
).length;
await orm.close();
proxy.close();
for (const { near } of lines) near.destroy();
await sink.close();
cluster.end();
rmSync(folder, { recursive: true, force: true });

const kinds = [...new Set(harm)].map((h) => `${h} ${harm.filter((one) => one === h).length}×`);
console.log(`${kinds.join(', ')}; clocks a minute ahead and a minute behind`);
console.log(`requests: ${[...answers].map(([what, n]) => `${n} ${what}`).join(', ')}`);
console.log(
  `${mail.messages} messages, ${sink.arrived.size} arrived; unclear ${mail.unclear}, of which ${mail.unclearCame} had arrived`,
);
console.log(`lost ${mail.lost}, doubled ${mail.doubled}, still waiting ${mail.waiting}, in no log ${mail.unnamed}`);
console.log(`nudges without their messages ${bare}, decided twice ${twice}; ended with ${codes.join(', ')}`);
process.exit(mail.lost + mail.doubled + mail.waiting + mail.unnamed + bare + twice > 0 ? 1 : 0);
