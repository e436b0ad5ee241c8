/** Wordings as stored, and compiled ones, kept while their text is the same. */
import { LRUCache } from 'lru-cache';
import type { ParseResult, Problem } from '@zest-bell/core/problem';
import { compileWording, type CompiledWording, type Wording } from '@zest-bell/core/wording';
import type { LiveCourse } from '../course/activity/live.ts';
import { missingFiles } from './files/repository.ts';
import type { Em, Tx } from '../platform/database/orm.ts';
import { inSlices, rowsOf } from '../platform/database/query.ts';
import { WordingRow, wordingHolds } from './entity.ts';
import { upsertRow } from '../platform/database/writing.ts';

export const wordingOfRow = (row: WordingRow): Wording => ({
  id: row.key,
  name: row.name,
  purpose: row.purpose,
  subject: row.subject,
  text: row.body,
  variants: row.variants,
  copies: row.copies,
  files: row.files,
  letter: row.letter ?? null,
});

const compiled = new LRUCache<string, ParseResult<CompiledWording>>({
  // Every keystroke of a preview is a wording of its own: bounded by the texts' lengths.
  maxSize: 20_000_000,
  sizeCalculation: (_value, key) => key.length,
});

export function compiledOf(wording: Wording): ParseResult<CompiledWording> {
  const key = JSON.stringify(wording);
  let known = compiled.get(key);
  if (!known) {
    known = compileWording(wording);
    compiled.set(key, known);
  }
  return known;
}

/** What a wording names that is not in its course: an item, a picture, a file. */
export async function missingNames(em: Em, wording: CompiledWording, { id, course }: LiveCourse): Promise<Problem[]> {
  const items = wording.items.filter((item) => !course.itemIndex.has(item));
  const pictures = await missingFiles(em, id, wording.pictures);
  const files = wording.wording.files ?? [];
  const gone = new Set(
    await missingFiles(
      em,
      id,
      files.map((f) => f.id),
    ),
  );
  return [
    ...items.map((item) => ({
      path: 'text',
      code: 'notInCourse',
      message: `It names the item “${item}”, which is not in this course`,
    })),
    ...pictures.map(() => ({ path: 'text', code: 'noPicture', message: 'A picture in it is no longer there' })),
    ...files
      .filter((f) => gone.has(f.id))
      .map((f) => ({ path: 'files', code: 'noFile', message: `The file “${f.name}” is no longer there` })),
  ];
}

/** Compiled wordings of a course by key; one that does not exist is a problem like one that cannot be read. */
export async function loadWordings(
  em: Em,
  course: number,
  keys: readonly string[],
): Promise<(key: string) => ParseResult<CompiledWording>> {
  const rows = await em.find(WordingRow, { course, key: { $in: [...keys] } }, { disableIdentityMap: true });
  const byKey = new Map(rows.map((r) => [r.key, compiledOf(wordingOfRow(r))]));
  return (key) =>
    byKey.get(key) ?? {
      ok: false,
      problems: [{ path: 'wording', code: 'notInCourse', message: `There is no wording “${key}” in this course` }],
    };
}

/** Adds a wording to a course that has none under its key; what is there stays as it was changed. */
export async function insertWording(em: Tx<'course'>, course: number, wording: Wording): Promise<void> {
  const { id: key, text: body, variants = [], copies = [], files = [], letter = null, ...more } = wording;
  await upsertRow(
    em,
    wordingHolds,
    { course, key, body, variants, copies, files, letter, ...more },
    { onConflictFields: ['course', 'key'], onConflictAction: 'ignore' },
  );
}

/** Which text of a wording each of these students got last, by both, as `lastKey` joins them. */
export async function lastVariants(em: Em, course: number, students: readonly string[]): Promise<Map<string, number>> {
  const last = new Map<string, number>();
  for (const slice of inSlices(students)) {
    const query = em
      .getKnex()('nudge as n')
      .join('message as m', 'm.nudge', 'n.id')
      .select({ wording: 'n.wording', student: 'n.student', variant: 'm.variant' })
      .where('n.course', course)
      .whereIn('n.student', slice)
      .whereNotNull('m.variant')
      .orderBy('m.id');
    const rows = await rowsOf<{ wording: string; student: string; variant: number }>(em, query);
    for (const r of rows) last.set(lastKey(r.wording, r.student), r.variant);
  }
  return last;
}

export const lastKey = (wording: string, student: string): string => `${wording} ${student}`;
