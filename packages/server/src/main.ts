/** The composition root: the one place where things are wired. */
import { createPrivateKey } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { pino } from 'pino';
import { LiveCourses } from './activity/live.ts';
import { DEMO_REPLIES, openDemo, type Demo } from './demo.ts';
import { Dispatcher } from './outbox/dispatcher.ts';
import { createApp } from './platform/app.ts';
import { systemClock } from './platform/clock.ts';
import { readConfig, StartProblem, type Config } from './platform/config.ts';
import { openDataFolder, sessionSecret } from './platform/dataFolder.ts';
import { pauseToken } from './pauses/token.ts';
import { replyAddress } from './replies/address.ts';
import { readMailbox } from './replies/mailbox.ts';
import { openReceiver } from './replies/receiver.ts';
import { listen } from './platform/listen.ts';
import { lockFolder } from './platform/lock.ts';
import { noTransport, smtpTransport, type Signing } from './platform/mail.ts';
import { readyDatabase } from './platform/orm.ts';
import type { Services } from './platform/services.ts';
import { every } from './platform/timer.ts';
import { runDueRounds } from './rounds/scheduler.ts';

async function start(config: Config): Promise<void> {
  openDataFolder(config.data);
  const unlock = config.demo ? lockFolder(config.data) : () => undefined;
  process.once('exit', unlock);
  const logger = pino({ level: config.log });
  const secret = sessionSecret(config.data);
  const orm = await readyDatabase(join(config.data, 'zest-bell.db'));
  const demo: Demo | null = config.demo ? await openDemo(config.data, orm, secret, config.demoMailDelay) : null;
  const smtpUrl = demo?.smtpUrl ?? config.smtpUrl;
  let local = '';
  const replies = config.demo ? DEMO_REPLIES : config.replies;
  const services: Services = {
    orm,
    clock: demo?.clock ?? systemClock,
    live: new LiveCourses(),
    mail: smtpUrl ? smtpTransport(smtpUrl, demo ? null : signingOf(config)) : noTransport,
    logger,
    replyAddress: (nudge) => (replies ? replyAddress(secret, replies.domain, nudge) : null),
    pauseLink: (nudge) => `${config.publicUrl ?? local}/p/${pauseToken(secret, nudge)}`,
  };
  const dispatcher = new Dispatcher(services);
  let ready = false;
  const app = createApp(services, dispatcher, {
    secret,
    secure: config.publicUrl?.startsWith('https:') ?? false,
    demo: demo && { email: demo.email, routes: demo.routes, isSilent: () => demo.clock.silentSince !== null },
    isReady: () => ready,
  });
  const { server, port } = await listen(app, config.port, config.host);
  local = `http://${config.host}:${port}`;

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
    await demo.raiseCurtain(services, dispatcher, local);
  } else {
    stops.push(
      every(2000, () => runDueRounds(services), logger),
      every(1000, () => dispatcher.drain(), logger),
    );
    const { imapUrl: url } = config;
    const tags = replies && { domain: replies.domain, secret };
    if (url) stops.push(every(60_000, () => readMailbox(services, { url, tags }), logger));
  }
  stops.push(every(60_000, () => services.live.saveColumns(orm), logger));
  ready = true;
  process.stdout.write(`Zest Bell is ready at ${config.publicUrl ?? local}\n`);

  const stop = () => {
    ready = false;
    server.close();
    server.closeIdleConnections();
    setTimeout(() => process.exit(1), 10_000).unref();
    void Promise.all(stops.map((s) => s()))
      // The lines to the mail server first: the Mailroom closes when nobody is on them.
      .then(() => receiver?.close())
      .then(() => services.mail.close())
      .then(() => demo?.close())
      .then(() => orm.close())
      .then(() => process.exit(0));
  };
  process.once('SIGTERM', stop);
  process.once('SIGINT', stop);
}

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
  if (!(error instanceof StartProblem)) throw error;
  process.stderr.write(`\n${error.message}\n\n`);
  process.exit(2);
}
