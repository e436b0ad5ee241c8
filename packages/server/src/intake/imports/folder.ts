/**
 * A folder of each course in which files are taken as they appear, for exports that a machine writes at night. What was taken
 * moves to `done`, what could not be to `refused` with the reason beside it; Today and Course tell of both.
 */
import { createReadStream } from 'node:fs';
import { mkdir, readdir, rename, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Instant } from '@zest-bell/core/time';
import { slugOf, UnreadableFile } from '@zest-bell/core/imports';
import { CourseRow } from '../../course/entity.ts';
import { AppError } from '../../platform/http/errors.ts';
import type { Em } from '../../platform/database/orm.ts';
import { inTransaction } from '../../platform/database/transaction.ts';
import type { Services } from '../services.ts';
import { LARGEST_FILE } from './broughtFiles.ts';
import { ImportRow } from './entity.ts';
import { decisionsBefore } from './read.ts';
import { takeImport } from './take.ts';
import { namedActor } from '@zest-bell/core/access';
import { wallClock } from '../../platform/process/clock.ts';

/** A file that was written to more recently may not be whole yet, in ms. */
const SETTLED = 3000;
/** As whom the log of changes names it. */
const BY = namedActor('The course’s folder');

/** Where files of a course are looked for. */
export const folderOf = (base: string, course: Pick<CourseRow, 'id' | 'code'>): string =>
  join(base, `${slugOf(course.code)}-${course.id}`);

/** Files of one course that are taken in one turn: then the folders of other courses are looked into. */
const A_TURN = 5;
/** How often a file is tried whose trouble may pass, as a full disk does, and how long it waits before the next try, in ms. */
const TRIES = 3;
const WAITS = [15_000, 60_000];
/** Bytes of a name that a file system takes. */
const LONGEST_NAME = 255;

const WATCHED = { watched: true, archivedAt: null };

/** Tries of files whose trouble may pass, by their path. */
const tries = new Map<string, { readonly count: number; readonly next: number }>();

/** Whether any course wants its folder looked into. */
export const anyFolders = async ({ reading }: Pick<Services, 'reading'>): Promise<boolean> =>
  (await reading.em.fork().count(CourseRow, WATCHED)) > 0;

/** Takes what lies in the folders of courses that want it. Returns how many files were settled. */
export async function lookIntoFolders(services: Services, now: () => number = wallClock): Promise<number> {
  const courses = await services.orm.em.fork().find(CourseRow, WATCHED);
  let settled = 0;
  for (const course of courses) {
    const folder = folderOf(services.folder, course);
    try {
      for (const name of ['done', 'refused']) await mkdir(join(folder, name), { recursive: true });
      const names = (await readdir(folder, { withFileTypes: true })).filter(
        (e) => e.isFile() && !e.name.startsWith('.'),
      );
      let taken = 0;
      for (const { name } of names.toSorted((a, b) => (a.name < b.name ? -1 : 1))) {
        if (taken >= A_TURN) break;
        const path = join(folder, name);
        const { mtimeMs, size } = await stat(path);
        if (now() - mtimeMs < SETTLED || now() < (tries.get(path)?.next ?? 0)) continue;
        if (await settleOrWait(services, course.id, { folder, name, size }, now)) settled++;
        taken++;
      }
    } catch (error) {
      // One course's folder that cannot be read stops no other.
      services.logger.error({ err: error, course: course.id }, 'the folder of a course could not be read');
    }
  }
  return settled;
}

interface Found {
  readonly folder: string;
  readonly name: string;
  readonly size: number;
}

/** Errors of a file system or a database that pass by themselves. */
const MAY_PASS = new Set([
  'ENOSPC',
  'EMFILE',
  'ENFILE',
  'EBUSY',
  'EAGAIN',
  'SQLITE_BUSY',
  'SQLITE_FULL',
  'SQLITE_IOERR',
]);
const mayPass = (error: unknown): boolean => {
  const { code, rawCode } = error as { readonly code?: unknown; readonly rawCode?: unknown };
  return (
    MAY_PASS.has(String(code)) ||
    [5, 13].includes(Number(rawCode)) ||
    (error instanceof AppError && (error.code === 'busy' || error.code === 'diskFull'))
  );
};

/** Whatever fails with one file is that one's own trouble: those behind it go on. True where it was settled. */
async function settleOrWait(
  services: Services,
  course: number,
  found: Found,
  wallClock: () => number,
): Promise<boolean> {
  const path = join(found.folder, found.name);
  try {
    await settle(services, course, found);
    tries.delete(path);
    return true;
  } catch (error) {
    services.logger.error({ err: error, course, file: found.name }, 'a file of a folder could not be taken');
    const count = (tries.get(path)?.count ?? 0) + 1;
    if (mayPass(error) && count < TRIES) {
      tries.set(path, { count, next: wallClock() + WAITS[count - 1]! });
      return false;
    }
    tries.delete(path);
    const why =
      'This file could not be read. Open it in your spreadsheet program, save it again, and put it here once more.';
    await move(found, 'refused', services.clock.now(), why);
    return true;
  }
}

async function settle(services: Services, course: number, found: Found): Promise<void> {
  const path = join(found.folder, found.name);
  const now = services.clock.now();
  try {
    if (found.size > LARGEST_FILE) throw new UnreadableFile('This file is larger than 500 MB. Split it.');
    const file = await services.brought.receive(createReadStream(path));
    const id = await bring(services, course, { name: found.name, file, size: found.size }, now).catch(
      async (error: unknown) => {
        await services.brought.forget([file]);
        throw error;
      },
    );
    try {
      await takeImport(services, { course, import: id, by: BY });
    } catch (error) {
      if (mayPass(error)) {
        await forget(services, course, id);
        throw error;
      }
      const isKnown = error instanceof UnreadableFile || error instanceof AppError;
      if (!isKnown)
        services.logger.error({ err: error, course, file: found.name }, 'a file of a folder could not be taken');
      const why = isKnown ? error.message : 'This file could not be taken. Bring it in by hand to see where it stops.';
      await refuse(services, course, id, why);
      return await move(found, 'refused', now, why);
    }
    await move(found, 'done', now, null);
  } catch (error) {
    if (!(error instanceof UnreadableFile)) throw error;
    await move(found, 'refused', now, error.message);
  }
}

async function bring(
  services: Services,
  course: number,
  { name, file, size }: { readonly name: string; readonly file: string; readonly size: number },
  now: Instant,
): Promise<number> {
  const onDisk = { name, path: services.brought.pathOf(file), size };
  const before = await decisionsBefore(services, services.reading.em.fork(), course, onDisk);
  return inTransaction(services.orm, async (em) => {
    // Nobody is there to say yes: what the course lacks is added only where a person did so with such a file.
    const decisions = { ...before, add: { people: false, items: false, ...before.add } };
    const row = em.create(ImportRow, { course, by: BY, name, file, at: now, state: 'open', way: 'folder', decisions });
    await em.flush();
    return row.id;
  });
}

const refuse = (services: Services, course: number, id: number, trouble: string) =>
  letGo(services, course, id, (em) =>
    em.nativeUpdate(ImportRow, { id, course }, { state: 'refused', trouble, file: null }),
  );

/** As if it had not been brought: it is tried again. */
const forget = (services: Services, course: number, id: number) =>
  letGo(services, course, id, (em) => em.nativeDelete(ImportRow, { id, course }));

async function letGo(services: Services, course: number, id: number, change: (em: Em) => Promise<unknown>) {
  const file = await inTransaction(services.orm, async (em) => {
    const row = await em.findOne(ImportRow, { id, course }, { disableIdentityMap: true });
    await change(em);
    return row?.file;
  });
  await services.brought.forget([file]);
}

/** Cut to so many bytes, its ending kept. */
function cut(name: string, most: number): string {
  if (Buffer.byteLength(name) <= most) return name;
  const at = name.lastIndexOf('.');
  const ending = at > 0 && name.length - at <= 10 ? name.slice(at) : '';
  let stem = ending === '' ? name : name.slice(0, at);
  while (Buffer.byteLength(stem + ending) > most) stem = stem.slice(0, -1);
  return stem + ending;
}

/** Under a name that no earlier file has. */
async function move({ folder, name }: Found, to: 'done' | 'refused', now: Instant, why: string | null): Promise<void> {
  // Room for the “.txt” of its reason.
  const stamped = cut(`${new Date(now).toISOString().replace(/[:.]/g, '-')} ${name}`, LONGEST_NAME - 4);
  await rename(join(folder, name), join(folder, to, stamped));
  if (why !== null) await writeFile(join(folder, to, `${stamped}.txt`), `${why}\n`);
}
