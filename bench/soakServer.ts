/** The built server with a clock that its parent steps: at each step it does what is due by then, and says when that is done. */
import { join } from 'node:path';
import { pino } from 'pino';
import { createApp } from '../packages/server/dist/app.js';
import { InstallationSenderNow } from '../packages/server/dist/access/installation.js';
import type { ConnectionServices } from '../packages/server/dist/connections/services.js';
import { LiveCourses } from '../packages/server/dist/course/activity/live.js';
import { openDatabase } from '../packages/server/dist/wiring/database.js';
import { forgetOld } from '../packages/server/dist/privacy/retention.js';
import { makeDispatcher } from '../packages/server/dist/wiring/dispatching.js';
import { BroughtFiles } from '../packages/server/dist/intake/imports/broughtFiles.js';
import { FileReader } from '../packages/server/dist/intake/imports/fileReader.js';
import { listen } from '../packages/server/dist/platform/http/listen.js';
import { outgoing } from '../packages/server/dist/platform/http/outgoing.js';
import { smtpTransport } from '../packages/server/dist/platform/mail/mail.js';
import { sealOf } from '../packages/server/dist/platform/process/seal.js';
import { NOTHING_FIXED } from '../packages/server/dist/platform/services.js';
import { LongWork } from '../packages/server/dist/platform/work/longWork.js';
import { noNews } from '../packages/server/dist/platform/work/news.js';
import { Staging } from '../packages/server/dist/intake/staging/staging.js';
import { ReplayThread } from '../packages/server/dist/rounds/replays/replayThread.js';
import { runDueRounds } from '../packages/server/dist/rounds/deciding/scheduler.js';

/** What the parent asks for. */
export type SoakStep = { readonly now: number; readonly what: 'nothing' | 'rounds' | 'nightly' };
/** What it hears: the port at first, then of each step how long its rounds took, in ms, and what memory is held, in MiB. */
export type SoakReport = { readonly port: number } | { readonly took: number; readonly held: number };

const [folder, smtp, from] = process.argv.slice(2) as [string, string, string];
let now = Number(from);
const place = join(folder, 'zest-bell.db');
const [orm, reading] = [await openDatabase(place), await openDatabase(place, { reading: true })];
const longWork = new LongWork(orm);
const sender = new InstallationSenderNow(reading, NOTHING_FIXED);
const services: ConnectionServices = {
  orm,
  reading,
  longWork,
  replays: new ReplayThread(longWork),
  files: new FileReader(),
  staging: new Staging({ orm, place, secret: 'none', folder }),
  brought: new BroughtFiles(join(folder, 'brought')),
  clock: { now: () => now },
  live: new LiveCourses(),
  fixed: NOTHING_FIXED,
  installationSender: sender.get,
  refreshInstallationSender: () => sender.refresh(),
  mail: smtpTransport(smtp, {}),
  logger: pino({ level: 'error' }),
  news: noNews,
  folder: join(folder, 'inbox'),
  exporting: join(folder, 'exports'),
  replyAddress: () => null,
  linkBase: () => null,
  forgetMail: () => undefined,
  seal: sealOf('no secret', 'factors'),
  sealOutside: sealOf('no secret', 'connections'),
  outgoing: outgoing({ allowPrivate: true }),
  pauseLink: () => null,
};
await sender.refresh();
const dispatcher = makeDispatcher(services);
const app = createApp(services, dispatcher, { secret: 'no secret', secure: false, demo: null, isReady: () => true });
const { port } = await listen(app, 0, '127.0.0.1');

const say = (what: SoakReport) => void process.send!(what);
process.on('message', (step: SoakStep) => void take(step));
process.on('disconnect', () => process.exit());
say({ port });

async function take(step: SoakStep): Promise<void> {
  now = step.now;
  const begun = performance.now();
  let took = 0;
  if (step.what === 'rounds') {
    await runDueRounds(services);
    took = performance.now() - begun;
    await dispatcher.drain();
  } else if (step.what === 'nightly') {
    await services.live.tidy(orm);
    await forgetOld(services);
  }
  if (step.what === 'nightly') global.gc!();
  const { heapUsed, external } = process.memoryUsage();
  say({ took, held: (heapUsed + external) / 2 ** 20 });
}
