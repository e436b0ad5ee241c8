/**
 * A folder of each course in which files are taken as they appear, for exports that a machine writes at night. A file that has been
 * still for a moment moves to `.reading` and is read there, so that another one under its name is another file. What was taken moves to
 * `done`, what could not be to `refused` with the reason beside it; Today and Course tell of both.
 */
import { constants, createReadStream, existsSync } from 'node:fs';
import { access, mkdir, readdir, rename, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Instant } from '@zest-bell/core/time';
import { slugOf, UnreadableFile } from '@zest-bell/core/imports';
import { CourseRow } from '../../course/entity.ts';
import { AppError } from '../../platform/errors/errors.ts';
import type { Tx } from '../../platform/database/orm.ts';
import type { IntakeServices } from '../services.ts';
import { LARGEST_FILE } from './broughtFiles.ts';
import { ImportRow, importHolds } from '../changes/importRow.ts';
import { decisionsBefore } from './read.ts';
import { takeImport } from './takeImport.ts';
import { namedActor } from '@zest-bell/core/access';
import { LeaseLost } from '../../platform/turns/holding.ts';
import { wallClock } from '../../platform/process/clock.ts';
import { insertRow, removeRows, updateRows } from '../../platform/database/writing.ts';
import { inCourse } from '../../course/lock.ts';

/** A file that was written to more recently may not be whole yet, in ms. */
const SETTLED = 3000;
/** As whom the log of changes names it. */
const BY = namedActor('The course’s folder');

/** Where files of a course are looked for. */
export const folderOf = (base: string, course: Pick<CourseRow, 'id' | 'code'>): string =>
  join(base, `${slugOf(course.code)}-${course.id}`);

/** Files of one course that are taken in one turn: then the folders of other courses are looked into. */
const A_TURN = 5;
/** For how long turns follow one another while files come, in ms. */
const LOOKS_FOR = 20_000;
/** Where a file is while it is read; what a process left there that was killed is read by the next. */
const READING = '.reading';
/** Where files are that were read, or are being read. */
export const KEPT_FOLDERS = ['done', 'refused', READING] as const;
/** How often a file is tried after a trouble that may pass, such as a full disk, and how long it waits before the next try, in ms. */
const TRIES = 3;
const WAITS = [15_000, 60_000];
/** Bytes of a name that a file system takes. */
const LONGEST_NAME = 255;

const WATCHED = { watched: true, archivedAt: null };

/** Tries of files with a trouble that may pass, by their path. */
const tries = new Map<string, { readonly count: number; readonly next: number }>();

/** Whether any course wants its folder looked into. */
export const anyFolders = async ({ reading }: Pick<IntakeServices, 'reading'>): Promise<boolean> =>
  (await reading.em.fork().count(CourseRow, WATCHED)) > 0;

/** Takes what lies in the folders of courses that want it. Returns how many files were settled. */
export async function scanFolders(services: IntakeServices, now: () => number = wallClock): Promise<number> {
  const courses = await services.orm.em.fork().find(CourseRow, WATCHED);
  let settled = 0;
  for (const end = performance.now() + LOOKS_FOR; performance.now() < end;) {
    let some = 0;
    for (const { id, code } of courses)
      some += await lookInto(services, id, folderOf(services.folder, { id, code }), now);
    if (some === 0) break;
    settled += some;
  }
  return settled;
}

/** One turn of one course. Its folder that cannot be read or written stops no other, and is told once. */
async function lookInto(services: IntakeServices, course: number, folder: string, now: () => number): Promise<number> {
  let settled = 0;
  try {
    for (const name of KEPT_FOLDERS) await mkdir(join(folder, name), { recursive: true });
    // Whether something can be moved there shows before anything is read.
    await access(folder, constants.W_OK);
    const left = await filesIn(join(folder, READING));
    const found = await filesIn(folder);
    let taken = 0;
    for (const { name, isNew } of [
      ...left.map((n) => ({ name: n, isNew: false })),
      ...found.map((n) => ({ name: n, isNew: true })),
    ]) {
      if (taken >= A_TURN) break;
      const from = isNew ? pathOf(folder, name) : pathOf(join(folder, READING), name);
      // It may have gone, or be another one by now.
      const about = await stat(from).catch(() => null);
      if (about === null || now() - about.mtimeMs < SETTLED) continue;
      const said = name.toString('utf8');
      if (now() < (tries.get(join(folder, said))?.next ?? 0)) continue;
      const path = pathOf(join(folder, READING), name);
      if (isNew && !(await moved(from, path))) continue;
      const isReadable = Buffer.from(said).equals(name);
      if (
        await settleOrWait(services, course, { folder, name: isReadable ? said : cleaned(said), path, isReadable }, now)
      )
        settled++;
      taken++;
    }
    told.delete(folder);
  } catch (error) {
    // Another process looks into the folders by now.
    if (error instanceof LeaseLost) throw error;
    services.logger.error({ err: error, course }, 'the folder of a course could not be read');
    await tellOfFolder(services, course, folder).catch((failure: unknown) => services.logger.error({ err: failure }));
  }
  return settled;
}

/** Names as the file system has them, which may be no UTF-8; hidden ones are left alone. */
async function filesIn(folder: string): Promise<Buffer[]> {
  const entries = await readdir(Buffer.from(folder), { withFileTypes: true, encoding: 'buffer' });
  const names = entries.filter((e) => e.isFile() && e.name[0] !== DOT).map((e) => e.name);
  return names.toSorted((a, b) => Buffer.compare(a, b));
}

const DOT = 0x2e;
const pathOf = (folder: string, name: Buffer): Buffer => Buffer.concat([Buffer.from(`${folder}/`), name]);
/** A name that every file system and every reader takes. */
const cleaned = (said: string): string => said.replaceAll('\uFFFD', '_');

/** False where the file has gone in the meantime. */
async function moved(from: Buffer, to: Buffer): Promise<boolean> {
  try {
    await rename(from, to);
    return true;
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'ENOENT') return false;
    throw error;
  }
}

/** Folders of which was told that they cannot be used, until they can be. */
const told = new Set<string>();

async function tellOfFolder({ orm, clock }: IntakeServices, course: number, folder: string): Promise<void> {
  if (told.has(folder)) return;
  const trouble =
    'Zest Bell cannot read or write this course’s folder, so its files wait there. Give the account of Zest Bell the right to write to it.';
  await inCourse(orm, course, (em) => keepRefused(em, course, 'The course’s folder', clock.now(), trouble));
  told.add(folder);
}

/** A file that came by the folder and was not taken, as Today and Course tell it. */
async function keepRefused(
  em: Tx<'course'>,
  course: number,
  name: string,
  at: Instant,
  trouble: string,
): Promise<void> {
  await insertRow(em, importHolds, {
    course,
    by: BY,
    name,
    file: null,
    at,
    state: 'refused',
    way: 'folder',
    trouble,
    decisions: {},
  });
}

interface FolderFile {
  readonly folder: string;
  /** As it is shown. */
  readonly name: string;
  /** Where it is read. */
  readonly path: Buffer;
  /** Whether its name can be read. */
  readonly isReadable: boolean;
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
  services: IntakeServices,
  course: number,
  found: FolderFile,
  wallClock: () => number,
): Promise<boolean> {
  const path = join(found.folder, found.name);
  try {
    const isSettled = await settle(services, course, found);
    if (isSettled) tries.delete(path);
    return isSettled;
  } catch (error) {
    if (error instanceof LeaseLost) throw error;
    services.logger.error({ err: error, course, file: found.name }, 'a file of a folder could not be taken');
    const count = (tries.get(path)?.count ?? 0) + 1;
    if (mayPass(error) && count < TRIES) {
      tries.set(path, { count, next: wallClock() + WAITS[count - 1]! });
      return false;
    }
    tries.delete(path);
    const why =
      'This file could not be read. Open it in your spreadsheet program, save it again, and put it here again.';
    await move(found, 'refused', services.clock.now(), why);
    return true;
  }
}

const UNREADABLE_NAME =
  'The name of this file has characters that cannot be read. Give it another name, and put it here again.';

/** False where it was still being written: it is read again later. */
async function settle(services: IntakeServices, course: number, found: FolderFile): Promise<boolean> {
  const now = services.clock.now();
  const refuseUnread = async (why: string) => {
    await inCourse(services.orm, course, (em) => keepRefused(em, course, found.name, now, why));
    await move(found, 'refused', now, why);
    return true;
  };
  if (!found.isReadable) return refuseUnread(UNREADABLE_NAME);
  try {
    const before = await stat(found.path);
    if (before.size > LARGEST_FILE) throw new UnreadableFile('This file is larger than 500 MB. Split it.');
    const file = await services.brought.receive(createReadStream(found.path));
    const after = await stat(found.path);
    if (after.size !== before.size || after.mtimeMs !== before.mtimeMs) {
      await services.brought.forget([file]);
      return false;
    }
    const id = await bring(services, course, { name: found.name, file, size: before.size }, now).catch(
      async (error: unknown) => {
        await services.brought.forget([file]);
        throw error;
      },
    );
    try {
      await takeImport(services, { course, import: id, by: BY });
    } catch (error) {
      if (error instanceof LeaseLost) throw error;
      if (mayPass(error)) {
        await forget(services, course, id);
        throw error;
      }
      const isKnown = error instanceof UnreadableFile || error instanceof AppError;
      if (!isKnown)
        services.logger.error({ err: error, course, file: found.name }, 'a file of a folder could not be taken');
      const why = isKnown ? error.message : 'This file could not be taken. Bring it in by hand to see where it stops.';
      await refuse(services, course, id, why);
      await move(found, 'refused', now, why);
      return true;
    }
    await move(found, 'done', now, null);
    return true;
  } catch (error) {
    if (!(error instanceof UnreadableFile)) throw error;
    return refuseUnread(error.message);
  }
}

async function bring(
  services: IntakeServices,
  course: number,
  { name, file, size }: { readonly name: string; readonly file: string; readonly size: number },
  now: Instant,
): Promise<number> {
  const onDisk = { name, path: services.brought.pathOf(file), size };
  const before = await decisionsBefore(services.files, services.reading.em.fork(), course, onDisk);
  return inCourse(services.orm, course, async (em) => {
    // Nobody is there to say yes: what the course lacks is added only where a person did so with such a file.
    const decisions = { ...before, add: { people: false, items: false, ...before.add } };
    const row = await insertRow(em, importHolds, {
      course,
      by: BY,
      name,
      file,
      at: now,
      state: 'open',
      way: 'folder',
      decisions,
    });
    return row.id;
  });
}

const refuse = (services: IntakeServices, course: number, id: number, trouble: string) =>
  letGo(services, course, id, (em) =>
    updateRows(em, importHolds, { id, course }, { state: 'refused', trouble, file: null }),
  );

/** As if it had not been brought: it is tried again. */
const forget = (services: IntakeServices, course: number, id: number) =>
  letGo(services, course, id, (em) => removeRows(em, importHolds, { id, course }));

async function letGo(
  services: IntakeServices,
  course: number,
  id: number,
  change: (em: Tx<'course'>) => Promise<unknown>,
) {
  const file = await inCourse(services.orm, course, async (em) => {
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
async function move(
  { folder, name, path }: FolderFile,
  to: 'done' | 'refused',
  now: Instant,
  why: string | null,
): Promise<void> {
  const stamp = new Date(now).toISOString().replace(/[:.]/g, '-');
  let target: string;
  // Room for the “.txt” of its reason.
  for (let n = 1; ; n++) {
    target = join(folder, to, cut(`${stamp}${n === 1 ? '' : `-${n}`} ${name}`, LONGEST_NAME - 4));
    if (!existsSync(target)) break;
  }
  await rename(path, target);
  if (why !== null) await writeFile(`${target}.txt`, `${why}\n`);
}
