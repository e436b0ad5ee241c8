// Kills the server at random moments while it takes a large file, again and again, and sees that all of the file is there or nothing:
// `npm run kills:imports -- 40`, and with `--postgres` on a PostgreSQL of its own. Needs a build.
import { mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { once } from 'node:events';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { spawnServer } from '../bench/running.ts';
import { readyDatabase } from '../packages/server/dist/wiring/database.js';
import { installPostgres, startPostgres } from './postgres.mjs';

const KILLS = Number(process.argv[2] ?? 40);
const onPostgres = process.argv.includes('--postgres');
const STUDENTS = 500;
/** Above 5 MiB, so that a thread with a connection of its own takes the file. */
const ROWS = 180_000;
const ACCOUNT = { name: 'Ada Lind', email: 'ada@saltmarsh.example', password: 'a long enough password' };

const folder = mkdtempSync(join(tmpdir(), 'zest-bell-kills-'));
if (onPostgres) installPostgres();
const cluster = onPostgres ? startPostgres() : null;
const place = cluster?.url() ?? join(folder, 'zest-bell.db');
const env = {
  NODE_OPTIONS: '',
  ZEST_DEMO: 'off',
  ...(onPostgres ? { ZEST_DATABASE_URL: place, ZEST_SECRET: 'no secret at all, for this is a test' } : {}),
};
const file = activity();
const found = { whole: 0, none: 0, part: 0, forgotten: 0, leftBehind: 0 };
let cookie = '';
let base = '';

let child = await start();
await ask('/accounts/first', JSON.stringify(ACCOUNT));
// How long it takes in peace says between which moments to kill.
const from = performance.now();
await ask(await bring(await makeCourse(0)));
const takes = performance.now() - from;

for (let i = 1; i <= KILLS; i++) {
  const course = await makeCourse(i);
  const brought = await bring(course);
  let answered = false;
  const taking = ask(brought).then(
    () => (answered = true),
    () => undefined,
  );
  await wait(Math.random() * takes * 1.1);
  await end('SIGKILL');
  await taking;
  child = await start();
  const { events, taken } = await look(course);
  if (events === 0 && !taken) found.none++;
  else if (events === ROWS && taken) found.whole++;
  else found.part++;
  if (answered && events !== ROWS) found.forgotten++;
  if (readdirSync(folder).some((name) => name.startsWith('staging-'))) found.leftBehind++;
  if (i % 10 === 0) console.log(`${i} kills`);
}
await end('SIGTERM');
const { sound, tables } = await onDatabase(async (run) => ({
  sound: onPostgres ? 'ok' : (await run('pragma integrity_check'))[0].integrity_check,
  tables: onPostgres ? (await run("select 1 from pg_class where relname like 'staged%'")).length : 0,
}));
cluster?.end();
rmSync(folder, { recursive: true, force: true });
console.log(`${KILLS} kills within ${Math.round(takes)} ms of taking ${ROWS} rows`);
console.log(`all there ${found.whole}, nothing there ${found.none}, in part ${found.part}`);
console.log(`answered and not there ${found.forgotten}; left behind: files ${found.leftBehind}, tables ${tables}`);
console.log(`database ${sound}`);
process.exit(found.part + found.forgotten + found.leftBehind + tables > 0 || sound !== 'ok' ? 1 : 0);

async function start() {
  const started = await spawnServer(folder, env);
  base = `${started.base}/api/v1`;
  return started.child;
}

async function end(signal) {
  const gone = once(child, 'exit');
  child.kill(signal);
  await gone;
}

async function ask(path, body = '{}', type = 'application/json') {
  const headers = { 'content-type': type, 'sec-fetch-site': 'same-origin', cookie };
  const answer = await fetch(`${base}${path}`, { method: 'POST', headers, body });
  if (!answer.ok) throw new Error(`${path}: ${answer.status} ${await answer.text()}`);
  cookie ||= answer.headers.get('set-cookie').split(';')[0];
  return answer.status === 204 ? null : answer.json();
}

async function makeCourse(n) {
  const calendar = { timeZone: 'UTC', start: '2026-01-12', end: '2026-05-08' };
  const people = Array.from({ length: STUDENTS }, (_, i) => ({
    id: `s${i}`,
    firstName: 'A',
    lastName: `N${i}`,
    email: `s${i}@saltmarsh.example`,
    role: 'student',
    enrolledAt: '2026-01-12T00:00:00Z',
  }));
  const scenario = {
    format: 'zest-bell/scenario@1',
    course: { code: `NAV ${n}`, title: 'Charts', ...calendar },
    people,
  };
  return (await ask('/courses/scenario', JSON.stringify(scenario), 'application/octet-stream')).id;
}

/** Gives where to take it. */
async function bring(course) {
  const { id } = await ask(`/courses/${course}/imports?name=activity.csv`, file, 'application/octet-stream');
  return `/courses/${course}/imports/${id}/take`;
}

/** A row for each student and minute in turn, so that no two say the same. */
function activity() {
  const first = Date.parse('2026-01-13T08:00:00Z');
  const rows = Array.from(
    { length: ROWS },
    (_, i) => `s${i % STUDENTS},visit,${new Date(first + i * 30_000).toISOString()}`,
  );
  return ['person,kind,at', ...rows].join('\n');
}

function look(course) {
  return onDatabase(async (run) => {
    const [{ n }] = await run('select count(*) as n from activity_event where course = ?', [course]);
    const changes = await run("select 1 from course_change where course = ? and kind = 'import'", [course]);
    return { events: Number(n), taken: changes.length > 0 };
  });
}

async function onDatabase(work) {
  const orm = await readyDatabase(place);
  try {
    return await work((sql, values = []) => orm.em.getConnection().execute(sql, values));
  } finally {
    await orm.close();
  }
}
