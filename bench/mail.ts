/** A round's mail, rendered, logged durably and sent, beside the bare mail library on the same messages. `npm run bench -- mail`. */
import { NOTHING_FIXED } from '../packages/server/dist/platform/services.js';
import { fork } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Database from 'libsql';
import nodemailer, { type TransportOptions } from 'nodemailer';
import { pino } from 'pino';
import { DAY } from '@zest-bell/core/time';
import type { CourseParts } from '@zest-bell/core/course';
import { parseRule } from '@zest-bell/core/rules';
import { inTransaction } from '../packages/server/dist/platform/database/transaction.js';
import { LongWork } from '../packages/server/dist/platform/work/longWork.js';
import { noNews } from '../packages/server/dist/platform/work/news.js';
import { BroughtFiles } from '../packages/server/dist/intake/imports/broughtFiles.js';
import { FileReader } from '../packages/server/dist/intake/imports/fileReader.js';
import { ReplayThread } from '../packages/server/dist/rounds/replays/replayThread.js';
import { LiveCourses } from '../packages/server/dist/course/activity/live.js';
import { withCourse } from '../packages/server/dist/course/repository.js';
import { Dispatcher } from '../packages/server/dist/mail/outbox/dispatcher.js';
import { CONNECTIONS, smtpTransport } from '../packages/server/dist/platform/mail/mail.js';
import { readyDatabase } from '../packages/server/dist/wiring/database.js';
import { runDueRounds } from '../packages/server/dist/rounds/deciding/scheduler.js';
import { insertRule } from '../packages/server/dist/rules/repository.js';
import { AttemptRow } from '../packages/server/dist/mail/nudges/attempt.js';
import { insertWording } from '../packages/server/dist/wording/repository.js';
import { benchCourse, LARGE } from './data.ts';
import { besideGoal } from './goals.ts';

const MESSAGES = 2000;

type BareAttempt = Pick<
  AttemptRow,
  'fromAddress' | 'recipientName' | 'address' | 'replyTo' | 'subject' | 'body' | 'html' | 'messageId'
>;
const WARM: BareAttempt = {
  fromAddress: 'a@x.example',
  recipientName: 'P',
  address: 'p@saltmarsh.example',
  replyTo: 'a@x.example',
  subject: 'A quiet week',
  body: 'P,\n\nit has been 5 days.',
  html: '<p>P,</p>\n<p>it has been 5 days.</p>',
  messageId: '<warm@x.example>',
};

export async function benchMail(): Promise<void> {
  const sink = fork(new URL('./sink.ts', import.meta.url), { execArgv: ['--import', 'tsx'] });
  const port = await new Promise<number>((ready) => sink.once('message', (n) => ready(n as number)));
  const url = `smtp://127.0.0.1:${port}`;
  const folder = mkdtempSync(join(tmpdir(), 'zest-bell-bench-'));
  const orm = await readyDatabase(join(folder, 'zest-bell.db'));
  const parts: CourseParts = benchCourse(LARGE);
  const people = parts.people.slice(0, MESSAGES).map((p) => ({ ...p, email: `${p.id}@saltmarsh.example` }));
  const course = { ...benchCourse(LARGE), people };
  let now = course.calendar.start + 10 * DAY;
  const mail = smtpTransport(url);
  const longWork = new LongWork();
  const services = {
    orm,
    reading: orm,
    longWork,
    replays: new ReplayThread(longWork),
    files: new FileReader(),
    brought: new BroughtFiles(join(folder, 'brought')),
    clock: { now: () => now },
    live: new LiveCourses(),
    mail,
    logger: pino({ level: 'error' }),
    news: noNews,
    forgetMail: () => undefined,
    linkBase: () => null,
    fixed: NOTHING_FIXED,
    installationSender: () => ({ name: 'Zest Bell', address: 'bell@saltmarsh.example' }),
    refreshInstallationSender: () => Promise.resolve(),
    seal: { close: (text: string) => text, open: (text: string) => text, mark: (text: string) => text },
    pauseLink: (nudge: number) => `https://bell.saltmarsh.example/p/${nudge}`,
    replyAddress: () => null,
    folder: join(folder, 'inbox'),
  };
  const rule = parseRule({
    id: 'away',
    name: 'Away',
    status: 'on',
    audience: { roles: ['student'] },
    when: { measure: 'daysSinceVisit', is: '>=', value: 5 },
    rhythm: { start: `${course.start}T09:30`, rrule: 'FREQ=DAILY' },
    repeat: { perSpell: 1 },
    steps: [{ deliver: 'send', to: ['student'], wording: 'gentle' }],
  });
  if (!rule.ok) throw new Error('The rule of the bench does not fit');
  const sender = { name: 'A', address: 'a@x.example', replyTo: 'a@x.example', signature: 'A', officeHours: '' };
  const more = { sender, tokenHash: 'none', guards: { askAbove: 1, staleHours: null } };
  await inTransaction(orm, (tx) =>
    withCourse(tx, course, more, async (em, id) => {
      await insertWording(em, id, {
        id: 'gentle',
        name: 'Gentle',
        purpose: 'support',
        subject: 'A quiet week in {{ course.title }}',
        text: '{{ student.first_name | default: "Hello" }},\n\nit has been {{ student.days_since_visit }}. Still open:\n\n{{ student.missing_list | default: "- nothing" }}\n\nTell me what would help.\n\n{{ sender.signature }}',
      });
      await insertRule(em, { id, course }, rule.value, null, now);
    }),
  );
  const send = (a: BareAttempt) =>
    bare.sendMail({
      from: { name: 'A', address: a.fromAddress },
      to: { name: a.recipientName, address: a.address },
      replyTo: a.replyTo,
      subject: a.subject,
      text: a.body,
      html: a.html,
      messageId: a.messageId,
    });
  const bare = nodemailer.createTransport({ url, pool: true, maxConnections: CONNECTIONS } as TransportOptions);
  // The mail library is warm for both.
  await Promise.all(Array.from({ length: 500 }, () => send(WARM)));
  const dispatcher = new Dispatcher(services);
  now += DAY;
  await runDueRounds(services);
  const commits = countSyncedCommits();
  const from = performance.now();
  await dispatcher.drain();
  const ours = performance.now() - from;
  const synced = commits.stop();
  const attempts = await orm.em.fork().find(AttemptRow, {}, { disableIdentityMap: true });
  if (attempts.length !== MESSAGES || attempts.some((a) => a.outcome !== 'sent')) {
    throw new Error(`${attempts.filter((a) => a.outcome === 'sent').length} of ${MESSAGES} were sent`);
  }
  mail.close();

  const start = performance.now();
  await Promise.all(attempts.map(send));
  const peer = performance.now() - start;
  const withSyncs = await timeSynced(join(folder, 'bare.db'), attempts, synced, send);
  bare.close();
  console.log(`${MESSAGES} messages rendered, logged durably and sent over SMTP, in ${synced} synced commits`);
  besideGoal('beside the bare mail library, pooled', (100 * peer) / ours, { unit: '% of its pace', atLeast: 40 });
  const beside = Math.round((100 * withSyncs) / ours);
  console.log(`  ${'beside a bare loop that syncs as often'.padEnd(66)} ${beside} % of its pace`);
  sink.kill();
  await orm.close();
  rmSync(folder, { recursive: true, force: true });
}

/** Counts the commits that wait for the disk, of every connection of this process. */
function countSyncedCommits(): { stop(): number } {
  const { prototype } = Database as unknown as { prototype: { exec: (sql: string) => unknown } };
  const { exec } = prototype;
  let count = 0;
  prototype.exec = function (this: unknown, sql) {
    if (sql === 'pragma synchronous = FULL') count++;
    return exec.call(this, sql);
  };
  return {
    stop() {
      prototype.exec = exec;
      return count;
    },
  };
}

/**
 * The same messages, in as many groups as there were synced commits: each group is marked in a table, waits until that is on the disk, and
 * leaves. In ms.
 */
async function timeSynced(
  file: string,
  attempts: readonly AttemptRow[],
  commits: number,
  send: (attempt: AttemptRow) => Promise<unknown>,
): Promise<number> {
  const db = new Database(file);
  db.exec('pragma journal_mode = WAL');
  db.exec('pragma synchronous = FULL');
  db.exec('create table begun (id integer primary key, at integer)');
  const mark = db.prepare('insert into begun (id, at) values (?, ?)');
  const each = Math.max(1, Math.round(attempts.length / commits));
  const from = performance.now();
  for (let i = 0; i < attempts.length; i += each) {
    const group = attempts.slice(i, i + each);
    db.exec('begin immediate');
    for (const { id } of group) mark.run([id, Date.now()]);
    db.exec('commit');
    await Promise.all(group.map(send));
  }
  const took = performance.now() - from;
  db.close();
  return took;
}
