/** Wordings as stored, and compiled ones, kept while their text is the same. */
import {
  compileWording,
  type CompiledWording,
  type Parsed,
  type Problem,
  type Wording,
  type WordingPurpose,
} from '@zest-bell/core';
import type { LiveCourse } from '../activity/live.ts';
import { missingFiles } from '../files/repository.ts';
import type { Em } from '../platform/orm.ts';
import { rowsOf } from '../platform/query.ts';
import { WordingRow } from './entity.ts';

export const wordingOfRow = (row: WordingRow): Wording => ({
  id: row.key,
  name: row.name,
  purpose: row.purpose as WordingPurpose,
  subject: row.subject,
  text: row.body,
  variants: row.variants,
  copies: row.copies,
  files: row.files,
  letter: row.letter ?? null,
});

const compiled = new Map<string, Parsed<CompiledWording>>();

export function compiledOf(wording: Wording): Parsed<CompiledWording> {
  const key = JSON.stringify(wording);
  let known = compiled.get(key);
  if (!known) {
    if (compiled.size > 2000) compiled.clear();
    known = compileWording(wording);
    compiled.set(key, known);
  }
  return known;
}

/** What a wording names that is not in its course: an item it links to, a picture, a file. */
export async function strangers(em: Em, wording: CompiledWording, { id, course }: LiveCourse): Promise<Problem[]> {
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
      message: `It links to the item “${item}”, which is not in this course`,
    })),
    ...pictures.map(() => ({ path: 'text', code: 'noPicture', message: 'A picture in it is no longer there' })),
    ...files
      .filter((f) => gone.has(f.id))
      .map((f) => ({ path: 'files', code: 'noFile', message: `The file “${f.name}” is no longer there` })),
  ];
}

/** The compiled wordings of a course by key; one that does not exist is a problem like one that cannot be read. */
export async function loadWordings(em: Em, course: number): Promise<(key: string) => Parsed<CompiledWording>> {
  const rows = await em.find(WordingRow, { course });
  const byKey = new Map(rows.map((r) => [r.key, compiledOf(wordingOfRow(r))]));
  return (key) =>
    byKey.get(key) ?? {
      ok: false,
      problems: [{ path: 'wording', code: 'notInCourse', message: `There is no wording “${key}” in this course` }],
    };
}

/** Adds a wording to a course that has none under its key; what is there stays as it was changed. */
export async function insertWording(em: Em, course: number, wording: Wording): Promise<void> {
  if ((await em.count(WordingRow, { course, key: wording.id })) > 0) return;
  const { id: key, text: body, variants = [], copies = [], files = [], letter = null, ...more } = wording;
  em.create(WordingRow, { course, key, body, variants, copies, files, letter, ...more });
  await em.flush();
}

/** Which text of a wording each student got last, by both, as `lastKey` joins them; of all students, or of some. */
export async function lastVariants(em: Em, course: number, students?: readonly string[]): Promise<Map<string, number>> {
  const query = em
    .getKnex()('message as m')
    .join('nudge as n', 'n.id', 'm.nudge')
    .select({ wording: 'n.wording', student: 'n.student', variant: 'm.variant' })
    .where('n.course', course)
    .whereNotNull('m.variant')
    .orderBy('m.id');
  if (students) void query.whereIn('n.student', [...students]);
  const rows = await rowsOf<{ wording: string; student: string; variant: number }>(em, query);
  return new Map(rows.map((r) => [lastKey(r.wording, r.student), r.variant]));
}

export const lastKey = (wording: string, student: string): string => `${wording} ${student}`;
