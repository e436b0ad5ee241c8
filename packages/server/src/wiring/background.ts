/** What a process does that nobody asks for, by the work that it is set to. What is one for all processes goes under a lease. */
import { forgetAddressCodes } from '../access/addressRoutes.ts';
import { forgetSessions } from '../access/sessions.ts';
import { forgetTries } from '../access/tries.ts';
import type { ConnectionServices } from '../connections/services.ts';
import { pullDue } from '../connections/sources.ts';
import { probeDiskSpace } from '../platform/database/space.ts';
import { databaseNow } from '../platform/database/moment.ts';
import { goOn } from '../privacy/erase.ts';
import { forgetOld } from '../privacy/retention.ts';
import { anyFolders, scanFolders } from '../intake/imports/folder.ts';
import type { Dispatcher } from '../mail/outbox/dispatcher.ts';
import type { MailboxOptions } from '../mail/replies/mailbox.ts';
import { afterClockStep } from './clockStep.ts';
import { forgetNotices } from '../platform/notices/notices.ts';
import { LOOKS_EVERY, watchRoom } from '../platform/notices/room.ts';
import { setClockBy } from '../platform/process/clock.ts';
import { ClockSteps, type ClockStep } from '../platform/process/clockSteps.ts';
import type { ProcessWork } from '../platform/process/config.ts';
import { underLease } from '../platform/work/lease.ts';
import { every } from '../platform/work/timer.ts';
import { runDueRounds } from '../rounds/deciding/scheduler.ts';

/** What is kept long enough is looked for once a day, in ms. */
const NIGHTLY = 24 * 3_600_000;

export interface Background {
  readonly services: ConnectionServices;
  readonly work: ReadonlySet<ProcessWork>;
  /** The data folder. */
  readonly data: string;
  /** Null in the demo, which moves rounds and mail by its own clock. */
  readonly dispatcher: Dispatcher | null;
  /** A mailbox in which answers are looked for; null if absent. */
  readonly mailbox: MailboxOptions | null;
}

/** Begins all of it. Returns how to stop, which waits for what is being done. */
export function begin({ services, work, data, dispatcher, mailbox }: Background): () => Promise<unknown> {
  const { orm, logger, news } = services;
  const stops: (() => Promise<void>)[] = [];
  const often = (ms: number, what: () => Promise<unknown>) => void stops.push(every(ms, what, logger));
  const once = (name: string, what: () => Promise<unknown>) => () => underLease(orm, name, what);

  const steps = new ClockSteps();
  /** What could not be seen to yet is tried again. */
  const open: ClockStep[] = [];
  often(5_000, async () => {
    await setClockBy(() => databaseNow(orm.em.fork()));
    const step = steps.look();
    // The demo has a clock of its own.
    if (step && dispatcher) open.push(step);
    for (; open.length > 0; open.shift()) await afterClockStep(services, open[0]!);
  });
  often(10_000, () => probeDiskSpace(orm));
  often(LOOKS_EVERY, () => watchRoom(orm, data));
  often(
    3_600_000,
    once('old notices', () => forgetNotices(orm)),
  );
  // Another process may have changed it.
  often(60_000, () => services.refreshInstallationSender());
  often(60_000, () => services.live.tidy(orm));
  if (work.has('rounds')) {
    if (dispatcher)
      often(2000, async () => {
        const rounds = await runDueRounds(services);
        if (rounds.some((r) => r.heard > 0)) await news.tell('mail');
      });
    often(3_600_000, () => forgetSessions(orm));
    often(3_600_000, () => forgetTries(orm));
    often(3_600_000, () => forgetAddressCodes(orm));
    often(
      60_000,
      once('erasing', () => goOn(services)),
    );
    often(
      NIGHTLY,
      once('forgetting', () => forgetOld(services)),
    );
  }
  if (work.has('mail') && dispatcher) {
    const drain = () => dispatcher.drain();
    often(1000, drain);
    stops.push(dispatcher.keepAlive());
    news.on(
      'mail',
      () => void drain().catch((error: unknown) => logger.error({ err: error }, 'mail was not handed over')),
    );
    if (mailbox)
      often(60_000, async () => {
        const { readMailbox } = await import('../mail/replies/mailbox.ts');
        await underLease(orm, `mailbox ${new URL(mailbox.url).host}`, () => readMailbox(services, mailbox));
      });
  }
  if (work.has('feeds')) {
    const look = once('folders', () => scanFolders(services));
    // Where nobody wants it, nothing is written every few seconds.
    often(5000, async () => (await anyFolders(services)) && look());
    often(30_000, () => pullDue(services));
  }
  return () => Promise.all(stops.map((stop) => stop()));
}
