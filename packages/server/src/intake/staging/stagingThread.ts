/** The thread that takes large files: their events go into a table as they are read, and are moved from there in one transaction. */
import { parentPort, type MessagePort } from 'node:worker_threads';
import { inCourse } from '../../course/lock.ts';
import { loadCourse } from '../../course/repository.ts';
import { openOrm, type Orm } from '../../platform/database/orm.ts';
import { isDiskFull } from '../../platform/database/space.ts';
import { AppError } from '../../platform/errors/errors.ts';
import { sealOf, type Seal } from '../../platform/process/seal.ts';
import { LeaseLost } from '../../platform/turns/holding.ts';
import { underLeasesOf } from '../../platform/work/lease.ts';
import { takeIn } from '../imports/takeIn.ts';
import { TAKING_ENTITIES } from './entities.ts';
import type { StagedToTake, StagingAnswer, StagingRequest, ToStage } from './messages.ts';
import { stagedFile, type StagedFile } from './tables.ts';

interface TakingServices {
  readonly orm: Orm;
  readonly seal: Seal;
}

interface Staged extends ToStage {
  readonly table: StagedFile;
}

let services: Promise<TakingServices> | null = null;
/** Files that are being read, each until it is taken or left. */
const stagings = new Map<number, Promise<Staged>>();

function say(answer: StagingAnswer): void {
  // Facts are handed over as they are, and no longer here.
  const events = 'taken' in answer && answer.taken !== 'stale' ? answer.taken.events : null;
  parentPort!.postMessage(answer, events ? [events.who.buffer, events.codes.buffer, events.times.buffer] : []);
}

parentPort!.on('message', (request: StagingRequest) => {
  if (request.as === 'open') services = open(request);
  else if (request.as === 'stage') stage(request);
  else if (request.as === 'take') void answer(request.id, () => take(request.id, request.take));
  else void answer(request.id, () => leave(request.id));
});

async function open({ place, secret }: StagingRequest & { as: 'open' }): Promise<TakingServices> {
  return { orm: await openOrm(place, TAKING_ENTITIES, { alone: true }), seal: sealOf(secret, 'factors') };
}

async function answer(id: number, work: () => Promise<StagingAnswer | null>): Promise<void> {
  try {
    const done = await work();
    if (done) say(done);
  } catch (error) {
    if (error instanceof AppError) say({ id, error: error.code });
    else if (error instanceof LeaseLost) say({ id, lost: error.message });
    else if (isDiskFull(error)) say({ id, error: 'diskFull' });
    else say({ id, fault: error instanceof Error ? (error.stack ?? error.message) : String(error) });
  }
}

function stage({ id, from, file }: StagingRequest & { as: 'stage' }): void {
  const staged = whole(from).then(async (read) => {
    const table = await stagedFile((await services!).orm, file);
    try {
      await table.fill(read.events);
    } catch (error) {
      await table.end();
      throw error;
    }
    return { ...read, table };
  });
  // `take` awaits it and answers with its error.
  staged.catch(() => undefined);
  stagings.set(id, staged);
}

/** What comes over a port: one message, or none where the reading fails. */
const whole = (from: MessagePort): Promise<ToStage> =>
  new Promise((done, failed) => {
    from.once('message', (read: ToStage) => done(read));
    from.once('close', () => failed(new Error('the reading of a file ended early')));
  });

async function take(id: number, { order, against, now, leases }: StagedToTake): Promise<StagingAnswer> {
  const { orm, seal } = await services!;
  try {
    const { reading, events, table } = await stagings.get(id)!;
    const found = { ...reading, facts: { ...reading.facts, events: table } };
    say({ id, holds: true });
    const taken = await underLeasesOf(leases, () =>
      inCourse(orm, order.course, async (tx, row) => {
        const before = await loadCourse(tx, row);
        return takeIn(tx, { seal, now, before }, order, { found, against });
      }),
    );
    return { id, taken: taken === 'stale' ? taken : { change: taken.change?.id ?? null, events } };
  } finally {
    say({ id, holds: false });
    await leave(id);
  }
}

/** Nothing is left of a file, also of one that could not be read. */
async function leave(id: number): Promise<null> {
  const staged = stagings.get(id);
  stagings.delete(id);
  const found = await staged?.catch(() => null);
  await found?.table.end();
  return null;
}
