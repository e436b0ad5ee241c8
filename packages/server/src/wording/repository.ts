/** Wordings as stored, and compiled ones, kept while their text is the same. */
import { compileWording, type CompiledWording, type Parsed, type Wording, type WordingPurpose } from '@zest-bell/core';
import type { Em } from '../platform/orm.ts';
import { WordingRow } from './entity.ts';

export const wordingOfRow = (row: WordingRow): Wording => ({
  id: row.key,
  name: row.name,
  purpose: row.purpose as WordingPurpose,
  subject: row.subject,
  text: row.body,
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
  const { id: key, text: body, ...more } = wording;
  em.create(WordingRow, { course, key, body, ...more });
  await em.flush();
}
