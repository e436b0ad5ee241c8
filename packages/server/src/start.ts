/** The composition root: the one place where things are wired. Nothing here ends the process: a test starts and stops servers in its own. */
import { createPrivateKey, randomBytes } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { pino } from 'pino';
import { LiveCourses } from './course/activity/live.ts';
import { DEMO_REPLIES, openDemo, type Demo } from './demo/demo.ts';
import { makeDispatcher } from './wiring/dispatching.ts';
import { Account } from './access/entity.ts';
import { InstallationSenderNow } from './access/installation.ts';
import type { Orm } from './platform/database/orm.ts';
import { copyLogAside, emptyLog, emptyLogOrLater } from './platform/database/writeAheadLog.ts';
import { createApp } from './app.ts';
import { StartProblem, type Config } from './platform/process/config.ts';
import { setClockBy, systemClock } from './platform/process/clock.ts';
import { sealOf } from './platform/process/seal.ts';
import { openDataFolder } from './platform/process/dataFolder.ts';
import { mustFitDatabase, secretOf } from './wiring/secret.ts';
import { pauseToken } from './mail/pauses/token.ts';
import { replyAddress } from './mail/replies/address.ts';
import { receiveInTurn } from './mail/replies/receivingTurn.ts';
import { listen } from './platform/http/listen.ts';
import { lockFolder } from './platform/process/lock.ts';
import { noTransport, smtpTransport, type DkimKey } from './platform/mail/mail.ts';
import { LongWork } from './platform/work/longWork.ts';
import { begin } from './wiring/background.ts';
import { markUsed, mustBeWhole, openDatabase, placeOf, readyDatabase } from './wiring/database.ts';
import type { Figures } from './desk/figures/figures.ts';
import { handsOverElsewhere } from './mail/outbox/handsOver.ts';
import { databaseNow } from './platform/database/moment.ts';
import { noNews, type News } from './platform/work/news.ts';
import { setTimeout as wait } from 'node:timers/promises';
import type { Logger } from 'pino';
import { BroughtFiles } from './intake/imports/broughtFiles.ts';
import { ImportRow } from './intake/changes/importRow.ts';
import { FileReader } from './intake/imports/fileReader.ts';
import { removeStaged, Staging } from './intake/staging/staging.ts';
import { ReplayThread } from './rounds/replays/replayThread.ts';
import { openSendings, wakeAfter } from './mail/sendings/sendings.ts';
import type { ConnectionServices } from './connections/services.ts';
import { outgoing } from './platform/http/outgoing.ts';
import { withoutValues } from './platform/process/withoutValues.ts';

/** For how long a stop waits for requests that are being answered, in ms. */
const ANSWERS_WITHIN = 1_000;

/** A server that answers. */
export interface StartedServer {
  /** The address at which this machine reaches it. */
  readonly base: string;
  /** The address at which its users reach it. */
  readonly address: string;
  /** Answers nobody any more, ends what it does in the background, and closes its files and lines. */
  readonly stop: () => Promise<void>;
}

/**
 * Starts a server and what it does in the background, and tells on the way what its operator should know. Throws a StartProblem or a
 * DamagedDatabase, each with a sentence that says what to do.
 */
export async function start(config: Config, say: (sentence: string) => void): Promise<StartedServer> {
  const isOpen = openDataFolder(config.data);
  const unlock = config.demo ? lockFolder(config.data) : () => undefined;
  process.once('exit', unlock);
  const logger = pino({ level: config.log, serializers: { err: withoutValues } });
  const warns = (warning: Error) => logger.warn({ err: warning }, warning.message);
  process.on('warning', warns);
  if (isOpen !== null) logger.warn(isOpen);
  const place = placeOf(config);
  if (config.databaseUrl === null) await mustBeWhole(config.data);
  const secret = secretOf(config);
  const orm = await readyDatabase(place, { logIsCopied: config.databaseUrl === null });
  // A process that was killed may have left in it what an erasure has removed.
  if (config.databaseUrl === null) await emptyLogOrLater(orm, 0);
  const endCopying = config.databaseUrl === null ? copyLogAside(place, logger) : null;
  if (config.databaseUrl === null) await removeStaged(config.data);
  await mustFitDatabase(orm, secret);
  if (config.databaseUrl === null) markUsed(config.data);
  await setClockBy(() => databaseNow(orm.em.fork()));
  const reading = await openDatabase(place, { reading: true });
  const news = await newsOf(config, orm, logger);
  const demo: Demo | null = config.demo ? await openDemo(config.data, orm, secret, config.demoMailDelay) : null;
  const smtpUrl = demo?.smtpUrl ?? config.smtpUrl;
  let local = '';
  const longWork = new LongWork(orm);
  const { fixed } = config;
  const installationSender = new InstallationSenderNow(reading, fixed);
  const replies = config.demo ? DEMO_REPLIES : config.replies;
  // A link that only this machine can open does not count, except in the demo, where mail is read on this machine.
  const linkBase = () => config.publicUrl ?? (config.demo ? local : null);
  const services: ConnectionServices = {
    orm,
    reading,
    longWork,
    replays: new ReplayThread(longWork),
    files: new FileReader(),
    staging: new Staging({ orm, place, secret, folder: config.data }),
    brought: new BroughtFiles(join(config.data, 'brought')),
    clock: demo?.clock ?? systemClock,
    live: new LiveCourses(fixed),
    fixed,
    installationSender: installationSender.get,
    refreshInstallationSender: () => installationSender.refresh(),
    mail: smtpUrl ? smtpTransport(smtpUrl, { signing: demo ? null : signingOf(config) }) : noTransport,
    logger,
    news,
    folder: config.inbox,
    exporting: join(config.data, 'exports'),
    replyAddress: (tag) => (replies ? replyAddress(secret, replies.domain, tag) : null),
    linkBase,
    forgetMail: (address, names) => demo?.forgetMail(address, names),
    seal: sealOf(secret, 'factors'),
    sealOutside: sealOf(secret, 'connections'),
    outgoing: outgoing({ allowPrivate: config.allowPrivate || config.demo }),
    pauseLink: (nudge) => (linkBase() === null ? null : `${linkBase()}/p/${pauseToken(secret, nudge)}`),
  };
  await installationSender.refresh();
  const dispatcher = makeDispatcher(services);
  const handsOver = config.work.has('mail') ? dispatcher : handsOverElsewhere(news);
  let ready = false;
  const firstCode = await codeForFirst(config, orm, say);
  const figures = await figuresOf(config, services);
  const app = createApp(services, handsOver, {
    secret,
    serves: config.work.has('web'),
    figures,
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
  if (config.publicUrl !== null) say(`Zest Bell is listening on ${port}`);

  const receiver =
    replies && config.work.has('mail')
      ? await receiveInTurn(services, {
          ...replies,
          secret,
          onArrival: () =>
            void dispatcher
              .drain()
              .catch((error: unknown) => logger.error({ err: error }, 'replies were not passed on')),
        })
      : null;
  if (receiver) demo?.receiveAt(receiver.port);
  if (demo) {
    say('Playing eight weeks of the demo term …');
    await demo.playUpToNow(services, dispatcher, local);
  }
  const { imapUrl: url } = config;
  const tags = replies && { domain: replies.domain, secret };
  const endBackground = begin({
    services,
    work: config.work,
    data: config.data,
    dispatcher: demo ? null : dispatcher,
    mailbox: url === null ? null : { url, tags },
  });
  const stop = async () => {
    ready = false;
    const answered = new Promise<void>((closed) => void server.close(() => closed()));
    server.closeIdleConnections();
    try {
      const mailEnds = config.work.has('mail') ? dispatcher.stop() : null;
      await Promise.all([
        mailEnds,
        endBackground(),
        services.replays.close(),
        services.files.close(),
        services.staging.close(),
      ]);
      // Open requests are answered before the database closes.
      await Promise.race([answered, wait(ANSWERS_WITHIN, undefined, { ref: false })]);
      // The lines to the mail server first: the Mailroom closes when nobody is on them.
      await receiver?.close();
      services.mail.close();
      await demo?.close();
      await news.close();
      await reading.close();
      await endCopying?.();
      // The file of the database is whole on its own then.
      if (config.databaseUrl === null) await emptyLog(orm);
    } catch (error) {
      logger.error({ err: error }, 'the stop was not clean');
    }
    await orm.close();
    process.off('warning', warns);
    process.off('exit', unlock);
    unlock();
  };

  if (config.work.has('feeds')) {
    const unsettled = await orm.em.fork().find(ImportRow, { state: 'open' }, { fields: ['file'] });
    await services.brought.sweep(new Set(unsettled.flatMap(({ file }) => file ?? [])));
  }
  for (const row of await openSendings(orm.em.fork(), services.clock.now())) wakeAfter(services, handsOver, row);
  ready = true;
  if (linkBase() === null) say(NO_LINKS);
  return { base: local, address: config.publicUrl ?? local, stop };
}

/** What only some installations need is loaded there alone. */
async function newsOf({ databaseUrl }: Config, orm: Orm, logger: Logger): Promise<News> {
  if (databaseUrl === null) return noNews;
  const { databaseNews } = await import('./platform/work/databaseNews.ts');
  return databaseNews(databaseUrl, orm, logger);
}

async function figuresOf({ metricsToken, data }: Config, services: ConnectionServices): Promise<Figures | null> {
  if (metricsToken === null) return null;
  const { Figures } = await import('./desk/figures/figures.ts');
  return new Figures(services, metricsToken, data);
}

const NO_LINKS =
  'ZEST_PUBLIC_URL is not set: messages carry no link with which students pause them. Set it to the address at which\n' +
  'people outside reach this server, such as https://bell.example.edu.';

function signingOf({ dkim }: Config): DkimKey | null {
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
async function codeForFirst(
  { host, publicUrl, demo }: Config,
  orm: Orm,
  say: (sentence: string) => void,
): Promise<string | null> {
  const isHere = publicUrl === null && /^(localhost|127\.|\[?::1)/.test(host);
  if (demo || isHere || (await orm.em.fork().count(Account)) > 0) return null;
  const code = randomBytes(9).toString('base64url');
  say(`Type this code with the first account: ${code}`);
  return code;
}
