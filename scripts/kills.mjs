// Kills the server at random moments of rounds, sends, imports, statements and starts, again and again, and sees that nothing is
// lost or comes twice; some are told to stop (SIGTERM), and must end by themselves: `npm run kills -- 300`, and with `--postgres` one of
// three processes on a PostgreSQL of its own each time.
// Needs a build. Everything stays on this machine, and it ends on its own.
import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { INSTRUCTOR, setUpKnots } from '../e2e/knotsCourse.ts';
import { grouped } from '../packages/core/dist/course/grouped.js';
import { readyDatabase } from '../packages/server/dist/wiring/database.js';
import { mailCame, openSink } from './harm.mjs';
import { installPostgres, startPostgres } from './postgres.mjs';
import { root } from './steps.mjs';

const KILLS = Number(process.argv[2] ?? 50);
const onPostgres = process.argv.includes('--postgres');
/** Processes at a time. */
const PROCESSES = onPostgres ? 3 : 1;
const STUDENTS = 25;
const COURSES = 3;
const folder = mkdtempSync(join(tmpdir(), 'zest-bell-kills-'));
if (onPostgres) installPostgres();
const cluster = onPostgres ? startPostgres() : null;
const place = cluster?.url() ?? join(folder, 'zest-bell.db');
const sink = await openSink();
const { arrived } = sink;

function start() {
  const child = spawn(process.execPath, ['packages/server/dist/main.js'], {
    cwd: root,
    env: {
      ...process.env,
      NODE_OPTIONS: '',
      ZEST_PORT: '0',
      ZEST_DATA: folder,
      ...(onPostgres ? { ZEST_DATABASE_URL: place, ZEST_SECRET: 'no secret at all, for this is a test' } : {}),
      ZEST_DEMO: 'off',
      ZEST_LOG: 'silent',
      ZEST_PUBLIC_URL: 'http://bell.saltmarsh.example',
      ZEST_SMTP_URL: sink.url,
    },
    stdio: ['ignore', 'pipe', 'ignore'],
  });
  child.said = '';
  child.stdout.on('data', (part) => (child.said += part));
  child.gone = new Promise((resolve) => child.once('exit', resolve));
  return child;
}

/** The port on which it listens, read from the system: its printed address is the public one. */
async function portOf(child) {
  for (const end = Date.now() + 60_000; Date.now() < end && child.exitCode === null; await wait(15)) {
    const port = /listening on (\d+)/.exec(child.said)?.[1];
    if (!port) continue;
    const health = await fetch(`http://127.0.0.1:${port}/health`).catch(() => null);
    if (health?.ok) return port;
  }
  throw new Error(`It did not start (${child.exitCode}): ${child.said}`);
}

async function onDatabase(work) {
  const orm = await readyDatabase(place);
  try {
    return await work(async (sql, values = []) => orm.em.getConnection().execute(sql, values));
  } finally {
    await orm.close();
  }
}

/** Asks as the instructor, who signs in once. */
let cookie = null;
async function ask(port, path, { method = 'POST', body = '{}', type = 'application/json' } = {}) {
  const base = `http://127.0.0.1:${port}/api/v1`;
  const headers = { 'content-type': type, 'sec-fetch-site': 'same-origin' };
  if (!cookie) {
    const signedIn = await fetch(`${base}/session`, {
      method,
      headers: { ...headers, 'content-type': 'application/json' },
      body: JSON.stringify(INSTRUCTOR),
    });
    cookie = signedIn.headers.get('set-cookie').split(';')[0];
  }
  const answer = await fetch(`${base}${path}`, { method, headers: { ...headers, cookie }, body });
  if (!answer.ok) throw new Error(`${path}: ${answer.status} ${await answer.text()}`);
  return answer.status === 204 ? null : answer.json();
}

const minute = (n) => new Date(Date.now() - n * 60_000).toISOString().slice(0, 16).replace('T', ' ');
let told = 0;

const ring = (port, course) => ask(port, `/courses/${course}/rules/quiet/ring`, { body: '{"confirmed":true}' });

/** Files that were taken, by what the server said: each brought so many visits. */
const taken = [];
async function bringFile(port, course) {
  const rows = Array.from(
    { length: 400 },
    (_, i) => `p${(i % STUDENTS) + 1},visit,${minute(7 * 1440 + told * 400 + i)}`,
  );
  told++;
  const { id } = await ask(port, `/courses/${course}/imports?name=visits${told}.csv`, {
    body: ['person,kind,at', ...rows].join('\n'),
    type: 'application/octet-stream',
  });
  const { change } = await ask(port, `/courses/${course}/imports/${id}/take`);
  taken.push({ course, change, rows: rows.length });
}

/** Statements that the server said it has. */
const kept = [];
let secret = null;
async function tellStatements(port) {
  const ids = Array.from({ length: 60 }, () => crypto.randomUUID());
  const body = ids.map((id, i) => ({
    id,
    actor: { mbox: `mailto:p${(i % STUDENTS) + 1}@saltmarsh.example` },
    verb: { id: 'http://adlnet.gov/expapi/verbs/experienced' },
    object: { id: 'https://lms.saltmarsh.example/pages/knots' },
    timestamp: new Date().toISOString(),
  }));
  const answer = await fetch(`http://127.0.0.1:${port}/xapi/1/statements`, {
    method: 'POST',
    headers: {
      'content-type': 'application/json',
      'x-experience-api-version': '1.0.3',
      authorization: `Basic ${Buffer.from(`course-1:${secret}`).toString('base64')}`,
    },
    body: JSON.stringify(body),
  });
  if (answer.ok) kept.push(...ids);
}

/** A scheduled round of every course is due. */
const makeDue = () => onDatabase((run) => run(`update rule set next_round_at = ${Date.now()} where status = 'on'`));

await setUpKnots(
  place,
  Array.from({ length: STUDENTS }, (_, i) => `S${i}`),
  {},
  { courses: COURSES, to: ['student', 'address:coach@saltmarsh.example'] },
);
const counts = { stops: 0, notClean: 0, starts: 0, rings: 0, due: 0, files: 0, statements: 0 };
{
  const child = start();
  const port = await portOf(child);
  secret = (await ask(port, '/courses/1/data/secret', { body: '{"of":"statements"}' })).secret;
  child.kill('SIGTERM');
  await child.gone;
}
const running = [];
for (let i = 0; i < KILLS; i++) {
  const due = Math.random() < 0.4;
  if (due) await makeDue();
  if (due) counts.due++;
  while (running.length < PROCESSES) running.push(start());
  // The one that is killed is the one that is asked: of several, any.
  const [child] = running.splice(Math.floor(Math.random() * running.length), 1);
  if (Math.random() < 0.15) {
    counts.starts++;
    await wait(Math.random() * 900);
  } else {
    const port = await portOf(child);
    const course = 1 + Math.floor(Math.random() * COURSES);
    const works = [
      ['rings', () => ring(port, course)],
      ['files', () => bringFile(port, course)],
      ['statements', () => tellStatements(port)],
    ].filter(() => Math.random() < 0.6);
    for (const [name] of works) counts[name]++;
    const all = works.map(([, work]) => work().catch(() => undefined));
    await wait(Math.random() * 1500);
    const stops = Math.random() < 0.25;
    child.kill(stops ? 'SIGTERM' : 'SIGKILL');
    await Promise.all(all);
    if (stops) {
      counts.stops++;
      if ((await child.gone) !== 0) counts.notClean++;
    }
  }
  child.kill('SIGKILL');
  await child.gone;
  if ((i + 1) % 25 === 0) console.log(`${i + 1} kills, ${arrived.size} messages arrived`);
}

// Once more in peace: all that waits goes out.
const last = start();
await portOf(last);
for (const end = Date.now() + 120_000; Date.now() < end; await wait(100)) {
  const [{ n }] = await onDatabase((run) =>
    run("select count(*) as n from message where state in ('queued', 'handing')"),
  );
  if (Number(n) === 0) break;
}
for (const child of [last, ...running]) {
  child.kill('SIGTERM');
  await child.gone;
}

const found = await onDatabase(async (run) => {
  const one = async (sql, values) => Number((await run(sql, values))[0].n);
  const mail = await mailCame(run, arrived);
  const events = { lost: 0, halves: 0 };
  for (const { course, change, rows } of taken) {
    const stored = await one('select count(*) as n from activity_event where course = ? and change = ?', [
      course,
      change,
    ]);
    if (stored !== rows) events.lost++;
  }
  // A file is taken whole or not at all, also where nobody heard the answer.
  for (const { id } of await run("select id from course_change where kind = 'import'")) {
    const stored = await one('select count(*) as n from activity_event where change = ?', [id]);
    if (stored % 400 !== 0 || stored === 0) events.halves++;
  }
  const rounds = await run('select * from rule_round');
  const nudges = await run('select course, rule, round_at, state from nudge');
  const written = grouped(
    nudges.filter((n) => n.state !== 'withdrawn'),
    (n) => `${n.course} ${n.rule} ${n.round_at}`,
  );
  const names = kept.map((id) => `'${id}'`).join(', ');
  return {
    mail,
    events,
    statements:
      kept.length -
      (kept.length === 0 ? 0 : await one(`select count(*) as n from statement where statement in (${names})`)),
    // Every nudge of a round that was written has its messages: one to the student, one outside.
    bare: await one(
      'select count(*) as n from nudge n where (select count(*) from message m where m.nudge = n.id) <> 2',
    ),
    // And every round the nudges that it says it wrote.
    short: rounds.filter((r) => r.heard !== (written.get(`${r.course} ${r.rule} ${r.at}`) ?? []).length).length,
    rounds: rounds.length,
    sound: onPostgres ? 'ok' : (await run('pragma integrity_check'))[0].integrity_check,
  };
});
await sink.close();
cluster?.end();
rmSync(folder, { recursive: true, force: true });

const { messages, lost, doubled, waiting, unclear, unclearCame } = found.mail;
console.log(
  `${KILLS} kills: ${counts.stops} of them by SIGTERM (${counts.notClean} not clean), ${counts.starts} in a start, ${counts.due} beside due rounds of ${COURSES} courses, ${counts.rings} in a ring, ` +
    `${counts.files} beside a file, ${counts.statements} beside statements`,
);
console.log(`${found.rounds} rounds, ${messages} messages, ${arrived.size} arrived`);
console.log(`messages lost ${lost}, doubled ${doubled}, still waiting ${waiting}`);
console.log(`nudges without their messages ${found.bare}, rounds without their nudges ${found.short}`);
console.log(`files: ${taken.length} taken, ${found.events.lost} of them lost, ${found.events.halves} in part`);
console.log(`statements: ${kept.length} kept, ${found.statements} of them lost`);
console.log(`unclear ${unclear} (${(unclear / KILLS).toFixed(1)} for each kill), of which ${unclearCame} had arrived`);
console.log(`database ${found.sound}`);
const wrong =
  counts.notClean +
  lost +
  doubled +
  waiting +
  found.bare +
  found.short +
  found.events.lost +
  found.events.halves +
  found.statements;
process.exit(wrong > 0 || found.sound !== 'ok' ? 1 : 0);
