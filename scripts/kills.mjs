// Kills the server at random moments of rounds, sends and starts, again and again, and sees that no message is lost or sent
// twice: `npm run kills -- 300`. Needs a build. Everything stays on this machine, and it ends by itself.
import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { SMTPServer } from 'smtp-server';
import { INSTRUCTOR, setUpKnots } from '../e2e/knotsCourse.ts';
import { readyDatabase } from '../packages/server/dist/database.js';
import { root } from './steps.mjs';

const KILLS = Number(process.argv[2] ?? 50);
const STUDENTS = 25;
const folder = mkdtempSync(join(tmpdir(), 'zest-bell-kills-'));
const file = join(folder, 'zest-bell.db');
/** How often each nudge has arrived, by the number in its link. */
const arrived = new Map();

const smtp = new SMTPServer({
  authOptional: true,
  disabledCommands: ['STARTTLS', 'AUTH'],
  onData(stream, _session, done) {
    let head = '';
    stream.on('data', (part) => (head += head.length < 8000 ? part.toString('latin1') : ''));
    stream.on('end', () => {
      const nudge = /\/p\/(\d+)\./.exec(head)?.[1];
      arrived.set(nudge, (arrived.get(nudge) ?? 0) + 1);
      // A mail server takes its time.
      setTimeout(() => done(null, '2.0.0 taken'), Math.random() * 8);
    });
  },
});
smtp.on('error', () => undefined);
await new Promise((ready) => smtp.listen(0, '127.0.0.1', ready));

function start() {
  const child = spawn(process.execPath, ['packages/server/dist/main.js'], {
    cwd: root,
    env: {
      ...process.env,
      NODE_OPTIONS: '',
      ZEST_PORT: '0',
      ZEST_DATA: folder,
      ZEST_DEMO: 'off',
      ZEST_LOG: 'silent',
      ZEST_PUBLIC_URL: 'http://bell.saltmarsh.example',
      ZEST_SMTP_URL: `smtp://127.0.0.1:${smtp.server.address().port}`,
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
  for (const end = Date.now() + 20_000; Date.now() < end && child.exitCode === null; await wait(15)) {
    const port = /listening on (\d+)/.exec(child.said)?.[1];
    if (port) return port;
  }
  throw new Error(`It did not start: ${child.said}`);
}

let cookie = null;
async function ring(port) {
  const base = `http://127.0.0.1:${port}`;
  const headers = { 'content-type': 'application/json', 'x-zest-bell': '1' };
  if (!cookie) {
    const body = JSON.stringify(INSTRUCTOR);
    const res = await fetch(`${base}/api/v1/session`, { method: 'POST', headers, body });
    cookie = res.headers.get('set-cookie').split(';')[0];
  }
  await fetch(`${base}/api/v1/courses/1/rules/quiet/ring`, {
    method: 'POST',
    headers: { ...headers, cookie },
    body: '{"confirmed":true}',
  });
}

await setUpKnots(
  file,
  Array.from({ length: STUDENTS }, (_, i) => `S${i}`),
  {},
);
let inStarts = 0;
for (let i = 0; i < KILLS; i++) {
  const child = start();
  if (Math.random() < 0.15) {
    inStarts++;
    await wait(Math.random() * 900);
  } else {
    const ringing = ring(await portOf(child)).catch(() => undefined);
    await wait(Math.random() * 1500);
    child.kill('SIGKILL');
    await ringing;
  }
  child.kill('SIGKILL');
  await child.gone;
  if ((i + 1) % 25 === 0) console.log(`${i + 1} kills, ${arrived.size} nudges arrived`);
}

// Once more in peace: all that waits goes out.
const last = start();
await portOf(last);
const orm = await readyDatabase(file);
const count = async (where) =>
  Number((await orm.em.getConnection().execute(`select count(*) as n from message where ${where}`))[0].n);
for (const end = Date.now() + 60_000; Date.now() < end; await wait(100)) {
  if ((await count("state in ('queued', 'handing')")) === 0) break;
}
last.kill('SIGTERM');
await last.gone;
const rows = await orm.em.getConnection().execute('select nudge, state from message');
const lost = rows.filter((r) => r.state === 'sent' && !arrived.has(String(r.nudge))).length;
const waiting = rows.filter((r) => ['queued', 'handing'].includes(r.state)).length;
const doubled = [...arrived.values()].filter((n) => n > 1).length;
const unclear = rows.filter((r) => r.state === 'uncertain');
const [{ integrity_check: sound }] = await orm.em.getConnection().execute('pragma integrity_check');
await orm.close();
await new Promise((closed) => smtp.close(closed));
rmSync(folder, { recursive: true, force: true });
console.log(`${KILLS} kills, ${inStarts} of them in a start: ${rows.length} messages, ${arrived.size} arrived`);
console.log(`lost ${lost}, doubled ${doubled}, still waiting ${waiting}, database ${sound}`);
const came = unclear.filter((r) => arrived.has(String(r.nudge))).length;
console.log(
  `unclear ${unclear.length} (${(unclear.length / KILLS).toFixed(1)} for each kill), of which ${came} had arrived`,
);
process.exit(lost + doubled + waiting > 0 || sound !== 'ok' ? 1 : 0);
