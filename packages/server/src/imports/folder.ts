/**
 * A folder of each course in which files are taken as they appear, for exports that a machine writes at night. What was taken
 * moves to `done`, what could not be to `refused` with the reason beside it; Today and Course tell of both.
 */
import { mkdir, readdir, readFile, rename, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { slugOf, UnreadableFile, type Instant } from '@zest-bell/core';
import { CourseRow } from '../course/entity.ts';
import { AppError } from '../platform/errors.ts';
import { inTransaction } from '../platform/transaction.ts';
import type { Services } from '../services.ts';
import { ImportBytesRow, ImportRow } from './entity.ts';
import { decisionsBefore } from './read.ts';
import { takeImport } from './take.ts';

/** A file that was written to more recently may not be whole yet, in ms. */
const SETTLED = 3000;
const LARGEST = 64 << 20;
/** As whom the log of changes names it. */
const BY = 'The course’s folder';

/** Where files of a course are looked for. */
export const folderOf = (base: string, course: Pick<CourseRow, 'id' | 'code'>): string =>
  join(base, `${slugOf(course.code)}-${course.id}`);

/** Takes what lies in the folders of courses that want it. Returns how many files were settled. */
export async function lookIntoFolders(services: Services, wallClock: () => number = Date.now): Promise<number> {
  const courses = await services.orm.em.fork().find(CourseRow, { watched: true });
  let settled = 0;
  for (const course of courses) {
    const folder = folderOf(services.folder, course);
    try {
      for (const name of ['done', 'refused']) await mkdir(join(folder, name), { recursive: true });
      const names = (await readdir(folder, { withFileTypes: true })).filter(
        (e) => e.isFile() && !e.name.startsWith('.'),
      );
      for (const { name } of names.toSorted((a, b) => (a.name < b.name ? -1 : 1))) {
        const path = join(folder, name);
        const { mtimeMs, size } = await stat(path);
        if (wallClock() - mtimeMs < SETTLED) continue;
        await settle(services, course.id, { folder, name, size });
        settled++;
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

async function settle(services: Services, course: number, found: Found): Promise<void> {
  const path = join(found.folder, found.name);
  const now = services.clock.now();
  try {
    if (found.size > LARGEST) throw new UnreadableFile('This file is larger than 64 MB. Split it.');
    const bytes = await readFile(path);
    const id = await bring(services, course, found.name, bytes, now);
    try {
      await takeImport(services, { course, import: id, by: BY });
    } catch (error) {
      if (!(error instanceof UnreadableFile || error instanceof AppError)) throw error;
      await refuse(services, course, id, error.message);
      return await move(found, 'refused', now, error.message);
    }
    await move(found, 'done', now, null);
  } catch (error) {
    if (!(error instanceof UnreadableFile)) throw error;
    await move(found, 'refused', now, error.message);
  }
}

async function bring(services: Services, course: number, name: string, bytes: Buffer, now: Instant): Promise<number> {
  return inTransaction(services.orm, async (em) => {
    const before = await decisionsBefore(em, course, name, bytes);
    // Nobody is there to say yes: what the course lacks is added only where a person did so with such a file.
    const decisions = { ...before, add: { people: false, items: false, ...before.add } };
    const row = em.create(ImportRow, { course, by: BY, name, at: now, state: 'open', way: 'folder', decisions });
    await em.flush();
    em.create(ImportBytesRow, { import: row.id, bytes });
    await em.flush();
    return row.id;
  });
}

const refuse = (services: Services, course: number, id: number, trouble: string) =>
  inTransaction(services.orm, async (em) => {
    await em.nativeUpdate(ImportRow, { id, course }, { state: 'refused', trouble });
    await em.nativeDelete(ImportBytesRow, { import: id });
  });

/** Under a name that no earlier file has. */
async function move({ folder, name }: Found, to: 'done' | 'refused', now: Instant, why: string | null): Promise<void> {
  const stamped = `${new Date(now).toISOString().replace(/[:.]/g, '-')} ${name}`;
  await rename(join(folder, name), join(folder, to, stamped));
  if (why !== null) await writeFile(join(folder, to, `${stamped}.txt`), `${why}\n`);
}
