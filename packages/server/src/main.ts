/** The composition root: the one place where things are wired. */
import { createPrivateKey, randomBytes } from 'node:crypto';
import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { pino } from 'pino';
import { forgetSessions } from './access/sessions.ts';
import { forgetTries } from './access/tries.ts';
import { LiveCourses } from './course/activity/live.ts';
import { DEMO_REPLIES, openDemo, type Demo } from './demo.ts';
import { makeDispatcher } from './dispatching.ts';
import { Account } from './access/entity.ts';
import type { Orm } from './platform/database/orm.ts';
import { createApp } from './app.ts';
import { systemClock } from './platform/process/clock.ts';
import { readConfig, StartProblem, type Config } from './platform/process/config.ts';
import { sealOf } from './platform/process/seal.ts';
import { openDataFolder, sessionSecret } from './platform/process/dataFolder.ts';
import { pauseToken } from './mail/pauses/token.ts';
import { replyAddress } from './mail/replies/address.ts';
import { openReceiver } from './mail/replies/receiver.ts';
import { listen } from './platform/http/listen.ts';
import { lockFolder } from './platform/process/lock.ts';
import { noTransport, smtpTransport, type Signing } from './platform/mail/mail.ts';
import { goOn } from './desk/erasure/erase.ts';
import { forgetOld } from './desk/erasure/retention.ts';
import { LongWork } from './platform/work/longWork.ts';
import { DamagedDatabase, openDatabase, readyDatabase } from './database.ts';
import { BroughtFiles } from './intake/imports/broughtFiles.ts';
import { lookIntoFolders } from './intake/imports/folder.ts';
import { ImportRow } from './intake/imports/entity.ts';
import { FileReader } from './intake/imports/fileReader.ts';
import { ReplayThread } from './rounds/replays/replayThread.ts';
import { openSendings, wakeAfter } from './mail/sendings/sendings.ts';
import type { Services } from './connections/services.ts';
import { pullDue } from './connections/sources.ts';
import { outgoing } from './platform/http/outgoing.ts';
import { every } from './platform/work/timer.ts';
import { withoutValues } from './platform/process/withoutValues.ts';
import { runDueRounds } from './rounds/scheduler.ts';

/** What is kept long enough is looked for once a day, in ms. */
const NIGHTLY = 24 * 3_600_000;
async function start(config: Config): Promise<void> {
  openDataFolder(config.data);
  const unlock = config.demo ? lockFolder(config.data) : () => undefined;
  process.once('exit', unlock);
  const logger = pino({ level: config.log, serializers: { err: withoutValues } });
  const file = join(config.data, 'zest-bell.db');
  await mustNotBeEmptied(config.data, file);
  const secret = sessionSecret(config.data);
  const orm = await readyDatabase(file);
  const reading = await openDatabase(file, { reading: true });
  const demo: Demo | null = config.demo ? await openDemo(config.data, orm, secret, config.demoMailDelay) : null;
  const smtpUrl = demo?.smtpUrl ?? config.smtpUrl;
  let local = '';
  const longWork = new LongWork();
  const replies = config.demo ? DEMO_REPLIES : config.replies;
  // A link that only this machine can open is none: in the demo the Mailroom reads here.
  const linkBase = () => config.publicUrl ?? (config.demo ? local : null);
  const services: Services = {
    orm,
    reading,
    longWork,
    replays: new ReplayThread(longWork),
    files: new FileReader(),
    brought: new BroughtFiles(join(config.data, 'brought')),
    clock: demo?.clock ?? systemClock,
    live: new LiveCourses(),
    mail: smtpUrl ? smtpTransport(smtpUrl, { signing: demo ? null : signingOf(config) }) : noTransport,
    logger,
    folder: join(config.data, 'inbox'),
    exporting: join(config.data, 'exports'),
    replyAddress: (tag) => (replies ? replyAddress(secret, replies.domain, tag) : null),
    linkBase,
    forgetMail: (address, names) => demo?.forgetMail(address, names),
    seal: sealOf(secret, 'factors'),
    sealOutside: sealOf(secret, 'connections'),
    outgoing: outgoing({ allowPrivate: config.allowPrivate || config.demo }),
    pauseLink: (nudge) => (linkBase() === null ? null : `${linkBase()}/p/${pauseToken(secret, nudge)}`),
  };
  const dispatcher = makeDispatcher(services);
  let ready = false;
  const firstCode = await codeForFirst(config, orm);
  const app = createApp(services, dispatcher, {
    secret,
    secure: config.publicUrl?.startsWith('https:') ?? false,
    publicUrl: config.publicUrl,
    trustedProxy: config.trustedProxy,
    demo: demo && { email: demo.email, routes: demo.routes, tells: demo.tells },
    isReady: () => ready,
    version: ownVersion(),
    firstCode,
  });
  const { server, port } = await listen(app, config.port, config.host);
  local = `http://${config.host}:${port}`;
  if (config.publicUrl !== null) process.stdout.write(`Zest Bell is listening on ${port}\n`);

  const receiver = replies
    ? await openReceiver(services, {
        ...replies,
        secret,
        onArrival: () =>
          void dispatcher.drain().catch((error: unknown) => logger.error({ err: error }, 'replies were not passed on')),
      })
    : null;
  if (receiver) demo?.receiveAt(receiver.port);

  const stops: (() => Promise<void>)[] = [];
  if (demo) {
    process.stdout.write('Playing eight weeks of the demo term …\n');
    await demo.playUpToNow(services, dispatcher, local);
  } else {
    stops.push(
      every(2000, () => runDueRounds(services), logger),
      every(1000, () => dispatcher.drain(), logger),
      dispatcher.keepAlive(),
    );
    const { imapUrl: url } = config;
    const tags = replies && { domain: replies.domain, secret };
    if (url) {
      const { readMailbox } = await import('./mail/replies/mailbox.ts');
      stops.push(every(60_000, () => readMailbox(services, { url, tags }), logger));
    }
  }
  stops.push(
    every(5000, () => lookIntoFolders(services), logger),
    every(60_000, () => services.live.tidy(orm), logger),
    every(3_600_000, () => forgetSessions(orm), logger),
    every(3_600_000, () => forgetTries(orm), logger),
    every(60_000, () => goOn(services), logger),
    every(30_000, () => pullDue(services), logger),
    every(NIGHTLY, () => forgetOld(services), logger),
  );
  const stop = () => {
    ready = false;
    server.close();
    server.closeIdleConnections();
    setTimeout(() => process.exit(1), 10_000).unref();
    void Promise.all([...stops.map((s) => s()), services.replays.close(), services.files.close()])
      // The lines to the mail server first: the Mailroom closes when nobody is on them.
      .then(() => receiver?.close())
      .then(() => services.mail.close())
      .then(() => demo?.close())
      .then(() => reading.close())
      // The file of the database is whole by itself then.
      .then(() => orm.em.getConnection().execute('pragma wal_checkpoint(truncate)'))
      .catch((error: unknown) => logger.error({ err: error }, 'the stop was not clean'))
      .then(() => orm.close())
      .then(() => process.exit(0));
  };
  process.once('SIGTERM', stop);
  process.once('SIGINT', stop);

  const unsettled = await orm.em.fork().find(ImportRow, { state: 'open' }, { fields: ['file'] });
  await services.brought.sweep(new Set(unsettled.flatMap(({ file }) => file ?? [])));
  for (const row of await openSendings(orm.em.fork(), services.clock.now())) wakeAfter(services, dispatcher, row);
  ready = true;
  if (linkBase() === null) process.stdout.write(NO_LINKS);
  process.stdout.write(`Zest Bell is ready at ${config.publicUrl ?? local}\n`);
}

/**
 * A folder that was used before and has no database, or an empty one, was copied or restored in part. As a new installation
 * its first visitor would own it. Throws a StartProblem.
 */
async function mustNotBeEmptied(folder: string, file: string): Promise<void> {
  if (!existsSync(join(folder, 'session-secret'))) return;
  let tables = 0;
  if (existsSync(file)) {
    // One that cannot be read at all is damaged, and told of as such.
    tables = await tablesIn(file).catch(() => 1);
  }
  if (tables > 0) return;
  throw new StartProblem(
    `The data folder ${folder} was used before, but its database is missing or empty.\n` +
      `Restore zest-bell.db from a backup, made by “npm run zest -- backup FILE”.\n` +
      `To begin anew instead, name an empty folder with ZEST_DATA.`,
  );
}

async function tablesIn(file: string): Promise<number> {
  const orm = await openDatabase(file, { reading: true });
  try {
    return (await orm.em.getConnection().execute<unknown[]>('select name from sqlite_master limit 1')).length;
  } finally {
    await orm.close();
  }
}

const NO_LINKS =
  'ZEST_PUBLIC_URL is not set: messages carry no link with which students pause them. Set it to the address at which\n' +
  'people outside reach this server, such as https://bell.example.edu.\n';

function signingOf({ dkim }: Config): Signing | null {
  if (dkim === null) return null;
  try {
    const key = readFileSync(dkim.keyFile, 'utf8');
    createPrivateKey(key);
    return { domain: dkim.domain, selector: dkim.selector, key };
  } catch (error) {
    const reason = error instanceof Error ? error.message : 'unknown reason';
    throw new StartProblem(`Zest Bell cannot start: the key that ZEST_DKIM_KEY names cannot be read: ${reason}`);
  }
}

try {
  await start(readConfig(process.env, process.cwd()));
} catch (error) {
  if (!(error instanceof StartProblem || error instanceof DamagedDatabase)) throw error;
  process.stderr.write(`\n${error.message}\n\n`);
  process.exit(2);
}

function ownVersion(): string {
  const about = JSON.parse(readFileSync(new URL('../package.json', import.meta.url), 'utf8')) as {
    readonly version: string;
  };
  return about.version;
}

/**
 * Who makes the first account of a server that others can reach shows that they started it, by a code that it prints. Null where nobody
 * else can reach it, or there is an account already.
 */
async function codeForFirst({ host, publicUrl, demo }: Config, orm: Orm): Promise<string | null> {
  const isHere = publicUrl === null && /^(localhost|127\.|\[?::1)/.test(host);
  if (demo || isHere || (await orm.em.fork().count(Account)) > 0) return null;
  const code = randomBytes(9).toString('base64url');
  process.stdout.write(`Type this code with the first account: ${code}\n`);
  return code;
}
