/**
 * Files that take their time: made one after the other in a folder that all processes see, told of while they are made, and let go of an
 * hour after they are done. What becomes of each is a row, so that any process can tell of it.
 */
import { randomUUID } from 'node:crypto';
import { mkdir, readdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import pLimit from 'p-limit';
import type { ExportState } from '@zest-bell/core/exchange';
import { wallClock } from '../../platform/process/clock.ts';
import { AppError } from '../../platform/errors/errors.ts';
import { inTransaction } from '../../platform/database/transaction.ts';
import type { PlatformServices } from '../../platform/services.ts';
import { ExportRow, exportHolds } from './entity.ts';
import { insertRow, removeRows, updateRows } from '../../platform/database/writing.ts';

/** How long a file is kept, in ms. */
const KEPT = 3_600_000;
/** What one person may have at once. */
const MOST_OF_ONE = 5;
/** How often the maker of a file says how far it is, in ms. */
const TOLD = 500;

export interface Progress {
  /** Writes into this file. */
  readonly path: string;
  readonly signal: AbortSignal;
  readonly total: (total: number) => void;
  readonly done: (more: number) => void;
}

type ExportServices = Pick<PlatformServices, 'orm' | 'logger'> & { readonly exporting: string };

/** Its owner. */
interface ExportOwner {
  readonly account: number;
  readonly course: number;
}

export class ExportJobs {
  private readonly services: ExportServices;
  private readonly line = pLimit(1);

  constructor(services: ExportServices) {
    this.services = services;
  }

  /** Throws `tooMuchAtOnce`. */
  async start(
    of: ExportOwner & { readonly name: string },
    make: (to: Progress) => Promise<void>,
  ): Promise<ExportState> {
    await this.sweep();
    const id = randomUUID();
    const { row, old } = await inTransaction(this.services.orm, async (tx) => {
      const mine = await tx.find(ExportRow, { account: of.account }, { orderBy: { heardAt: 'asc' } });
      const old = mine.filter((m) => !isOpen(m)).slice(0, -2);
      if (mine.filter(isOpen).length >= MOST_OF_ONE) throw new AppError('tooMuchAtOnce');
      const row = await insertRow(tx, exportHolds, { ...of, id, state: 'waiting', heardAt: wallClock() });
      await removeRows(tx, exportHolds, { id: { $in: old.map((one) => one.id) } });
      return { row, old };
    });
    for (const { id } of old) await rm(this.pathOf(id), { force: true });
    void this.run(id, of.course, make).catch((error: unknown) =>
      this.services.logger.error({ err: error, course: of.course }, 'a file could not be told of'),
    );
    return stateOf(row);
  }

  private async run(id: string, course: number, make: (to: Progress) => Promise<void>): Promise<void> {
    const stop = new AbortController();
    const path = this.pathOf(id);
    let [done, total] = [0, 0];
    const tell = async (more: Partial<ExportRow>) => {
      const set = { done, total, heardAt: wallClock(), ...more };
      // Its requester took it back, so there is nothing left to report.
      if ((await inTransaction(this.services.orm, (tx) => updateRows(tx, exportHolds, { id }, set))) === 0)
        stop.abort();
    };
    const telling = setInterval(() => void tell({}).catch(() => undefined), TOLD);
    await this.line(async () => {
      await tell({ state: 'running' });
      if (stop.signal.aborted) return;
      await mkdir(this.services.exporting, { recursive: true, mode: 0o700 });
      await make({ path, signal: stop.signal, total: (n) => (total = n), done: (more) => (done += more) });
    })
      .finally(() => clearInterval(telling))
      .then(async () => {
        if (!stop.signal.aborted) await tell({ state: 'done', bytes: (await stat(path)).size });
      })
      .catch(async (error: unknown) => {
        if (!stop.signal.aborted) this.services.logger.error({ err: error, course }, 'a file was not made');
        const trouble = error instanceof AppError ? error.message : 'The file could not be made. Try again.';
        await tell({ state: 'failed', trouble });
        await rm(path, { force: true });
      });
    if (stop.signal.aborted) await rm(path, { force: true });
  }

  private readonly pathOf = (id: string): string => join(this.services.exporting, id);

  /** Lets go of what is old, and of files that nothing names, as a process leaves them that was killed. */
  private async sweep(): Promise<void> {
    const { orm, exporting } = this.services;
    const old = wallClock() - KEPT;
    // The folder before the rows: a file that begins in the meantime has had its row before.
    const found = await readdir(exporting).catch(() => []);
    const kept = await inTransaction(orm, async (tx) => {
      await removeRows(tx, exportHolds, { heardAt: { $lt: old } });
      return tx.find(ExportRow, {}, { fields: ['id'], disableIdentityMap: true });
    });
    const names = new Set(kept.map((row) => row.id));
    for (const name of found) {
      if (!names.has(name)) await rm(this.pathOf(name), { force: true });
    }
  }

  /** Throws `notFound`: it is somebody else’s, of another course, or gone. */
  private async find(owner: ExportOwner, id: string): Promise<ExportRow> {
    const row = await this.services.orm.em.fork().findOne(ExportRow, { ...owner, id });
    if (!row) throw new AppError('notFound');
    return isLost(row)
      ? { ...row, state: 'failed', trouble: 'The server stopped while it made this file. Try again.' }
      : row;
  }

  async state(owner: ExportOwner, id: string): Promise<ExportState> {
    return stateOf(await this.find(owner, id));
  }

  /** Throws `notFound` until it is done. */
  async file(owner: ExportOwner, id: string): Promise<{ readonly path: string; readonly name: string }> {
    const { state, name } = await this.find(owner, id);
    if (state !== 'done') throw new AppError('notFound');
    return { path: this.pathOf(id), name };
  }

  async stop(owner: ExportOwner, id: string): Promise<void> {
    await this.find(owner, id);
    await inTransaction(this.services.orm, (tx) => removeRows(tx, exportHolds, { id }));
    await rm(this.pathOf(id), { force: true });
  }
}

const isBegun = ({ state }: ExportRow): boolean => state === 'waiting' || state === 'running';
/** Without a word for so long, in ms, the process that makes a file counts as gone. */
const LOST_AFTER = 60_000;

const isLost = (row: ExportRow): boolean => isBegun(row) && wallClock() - row.heardAt > LOST_AFTER;
const isOpen = (row: ExportRow): boolean => isBegun(row) && !isLost(row);

const stateOf = ({ id, state, done, total, name, bytes, trouble }: ExportRow): ExportState => ({
  id,
  state,
  done,
  total,
  name,
  bytes,
  trouble: trouble ?? null,
});
