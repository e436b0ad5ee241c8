/** What is known of students outside the database: each folder of the data folder, and how a student or a course is removed from it. */
import { readdir, readFile, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { folderOf, KEPT_FOLDERS } from '../intake/imports/folder.ts';
import { ImportRow, importHolds } from '../intake/changes/importRow.ts';
import type { IntakeServices } from '../intake/services.ts';
import { decodeText, UnreadableFile } from '@zest-bell/core/imports';
import { CourseRow } from '../course/entity.ts';
import type { ErasedStudent } from '../platform/database/holds.ts';
import { ExportRow } from '../desk/exports/entity.ts';
import { updateRows } from '../platform/database/writing.ts';
import { inCourse } from '../course/lock.ts';

export type StoreServices = Pick<IntakeServices, 'orm' | 'brought' | 'folder' | 'exporting'>;

/** A folder that holds what courses know. */
export interface Store {
  /** In the data folder. */
  readonly folder: string;
  /** Removes what may say something of a student, before the rows that name the files go. */
  readonly erase: (services: StoreServices, course: number, gone: ErasedStudent) => Promise<void>;
  /** Removes what may say something of any student of a course. Returns how many files that were. */
  readonly forget: (services: StoreServices, course: number) => Promise<number>;
}

const FOR_STUDENT = 'Removed, because a student was erased. Bring the file in again';
const FOR_COURSE = 'Removed, because the course ended long ago';

/** Files that nobody took yet: what is in one is not known, so it is brought again where it is still wanted. */
async function removeBrought({ orm, brought }: StoreServices, course: number, trouble: string): Promise<number> {
  const gone = await inCourse(orm, course, async (tx) => {
    const open = { course, file: { $ne: null } };
    const rows = await tx.find(ImportRow, open, { fields: ['file'], disableIdentityMap: true });
    await updateRows(tx, importHolds, open, { file: null, state: 'refused', trouble });
    return rows.map((row) => row.file);
  });
  await brought.forget(gone);
  return gone.length;
}

/** Files that were made to be taken along say what the database says; they are made again. */
async function removeExports({ orm, exporting }: StoreServices, course: number): Promise<number> {
  const rows = await orm.em.fork().find(ExportRow, { course }, { fields: ['id'], disableIdentityMap: true });
  for (const { id } of rows) await rm(join(exporting, id), { force: true });
  return rows.length;
}

/** The largest file that is read for a name, in bytes; a larger one goes. */
const LARGEST_TEXT = 64 << 20;

/** What was read of the watched folder of a course: text that names them goes, and whatever is no text. */
async function removeRead(
  { orm, folder }: StoreServices,
  course: number,
  isKept: (text: string | null) => boolean,
): Promise<number> {
  const row = await orm.em.fork().findOne(CourseRow, { id: course }, { fields: ['id', 'code'] });
  if (!row) return 0;
  let removed = 0;
  for (const name of KEPT_FOLDERS) {
    const there = join(folderOf(folder, row), name);
    for (const file of await readdir(there).catch(() => [])) {
      const path = join(there, file);
      if (isKept(file) && isKept(await textOf(path))) continue;
      await rm(path, { force: true });
      removed++;
    }
  }
  return removed;
}

/** The text of a file; null where it is not text, or too large. */
async function textOf(path: string): Promise<string | null> {
  try {
    return (await stat(path)).size > LARGEST_TEXT ? null : decodeText(await readFile(path)).text;
  } catch (error) {
    if (error instanceof UnreadableFile) return null;
    if ((error as NodeJS.ErrnoException).code === 'ENOENT') return '';
    throw error;
  }
}

export const STORES: readonly Store[] = [
  {
    folder: 'brought',
    erase: async (services, course) => void (await removeBrought(services, course, FOR_STUDENT)),
    forget: (services, course) => removeBrought(services, course, FOR_COURSE),
  },
  {
    folder: 'exports',
    erase: async (services, course) => void (await removeExports(services, course)),
    forget: removeExports,
  },
  {
    folder: 'inbox',
    erase: async (services, course, gone) =>
      void (await removeRead(services, course, (text) => text !== null && !gone.isNamed(text))),
    forget: (services, course) => removeRead(services, course, () => false),
  },
];
