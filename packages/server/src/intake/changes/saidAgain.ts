/**
 * A file that repeats a value makes no change. The value remembers that import, so that undoing the change that first set the value keeps
 * it as long as that file remains.
 */
import { gradeKey, type EntryAgain, type RepeatedFacts } from '@zest-bell/core/imports';
import { changedFields, type EntryChange, type FieldsRepeatedLater } from '@zest-bell/core/course';
import { ItemRow, PersonRow, type FieldImports, personHolds, itemHolds } from '../../course/entity.ts';
import { ImportRow } from './importRow.ts';
import type { Em, Tx } from '../../platform/database/orm.ts';
import { inSlices, rowsOf, run, select } from '../../platform/database/query.ts';
import { afterOthers } from '../../platform/turns/inTurns.ts';
import { ChangeRow } from './entity.ts';
import { updateRows } from '../../platform/database/writing.ts';
import { gradeHolds } from '../../course/activity/entity.ts';

/** Names an entry rather than a field of it. */
const ITSELF = '';

type Entries = 'people' | 'items';
/** Entries that are read and written at once. */
const A_STEP = 200;

/** What is remembered of entries, by their keys. */
async function memoryOf(
  em: Em,
  of: Entries,
  course: number,
  keys: readonly string[],
): Promise<Map<string, FieldImports>> {
  const where = { course, key: { $in: [...keys] } };
  const options = { fields: ['key', 'saidAgain'], disableIdentityMap: true } as const;
  const rows = of === 'people' ? await em.find(PersonRow, where, options) : await em.find(ItemRow, where, options);
  return new Map(rows.map(({ key, saidAgain }) => [key, saidAgain ?? {}]));
}

async function remember(
  em: Tx<'course'>,
  of: Entries,
  course: number,
  keys: readonly string[],
  saidAgain: FieldImports,
) {
  const where = { course, key: { $in: [...keys] } };
  if (of === 'people') await updateRows(em, personHolds, where, { saidAgain });
  else await updateRows(em, itemHolds, where, { saidAgain });
}

/** Remembers what an import says again; returns how much that is. */
export async function rememberSaidAgain(
  em: Tx<'course'>,
  course: number,
  by: number,
  again: RepeatedFacts,
): Promise<number> {
  await rememberEntries(em, 'people', course, by, again.people);
  await rememberEntries(em, 'items', course, by, again.items);
  await rememberGrades(em, course, by, again.grades);
  return again.people.length + again.items.length + again.grades.length;
}

async function rememberEntries(em: Tx<'course'>, of: Entries, course: number, by: number, all: readonly EntryAgain[]) {
  for (const slice of inSlices(all, A_STEP)) {
    await afterOthers(async () => {
      const known = await memoryOf(
        em,
        of,
        course,
        slice.map(({ id }) => id),
      );
      // Most entries of a file have the same to remember.
      const alike = new Map<string, string[]>();
      for (const { id, fields } of slice) {
        if (!known.has(id)) continue;
        const next = Object.fromEntries([ITSELF, ...fields].map((field) => [field, by]));
        const memory = JSON.stringify({ ...known.get(id), ...next });
        alike.set(memory, [...(alike.get(memory) ?? []), id]);
      }
      for (const [memory, keys] of alike) await remember(em, of, course, keys, JSON.parse(memory) as FieldImports);
    });
  }
}

async function rememberGrades(
  em: Tx<'course'>,
  course: number,
  by: number,
  grades: RepeatedFacts['grades'],
): Promise<void> {
  const keys = new Set(grades.map(gradeKey));
  const table = em.getKnex()('grade');
  for (const at of inSlices([...new Set(grades.map((g) => g.at))])) {
    const columns = ['id', 'person', 'item', 'criterion', 'points', 'at'] as const;
    const found = await select(em, gradeHolds, columns, (query) => query.where({ course }).whereIn('at', at));
    const ids = found.filter((g) => keys.has(gradeKey({ ...g, points: Number(g.points) }))).map((g) => g.id);
    for (const slice of inSlices(ids))
      await run(em, gradeHolds, table.clone().whereIn('id', slice).update({ said_again_by: by }));
  }
}

/** What to write with a change of an entry: the fields that it changes are other ones now. */
export async function forgettingFields(
  em: Em,
  of: Entries,
  course: number,
  changed: readonly EntryChange<{ readonly id: string }>[],
): Promise<(change: EntryChange<object>) => { readonly saidAgain?: FieldImports }> {
  const known = await memoriesOf(em, of, course, changed);
  return ({ id, before, after }) => {
    const memory = Object.entries(known.get(id) ?? {});
    if (memory.length === 0 || !before || !after) return {};
    const gone = new Set(changedFields(before, after));
    return { saidAgain: Object.fromEntries(memory.filter(([field]) => !gone.has(field))) };
  };
}

/** What later files say of what a change made. */
export interface LaterFiles {
  readonly people: FieldsRepeatedLater;
  readonly items: FieldsRepeatedLater;
  /** Grades of the change that stay, by the import that gave them last. */
  readonly grades: ReadonlyMap<number, number>;
  /** The change that each of these imports became; null for one that changed nothing. */
  readonly changeOf: ReadonlyMap<number, number | null>;
  /** The imports that say something of an entry. */
  readonly saying: (of: Entries, id: string) => readonly number[];
  /** Files that came later and were taken before this was remembered. */
  readonly unknown: number;
}

export async function laterFilesOf(em: Em, row: ChangeRow): Promise<LaterFiles> {
  const memory = {
    people: await memoriesOf(em, 'people', row.course, row.changes.people),
    items: await memoriesOf(em, 'items', row.course, row.changes.items),
  };
  const grades = await gradesAgain(em, row);
  const named = new Set([...grades.keys()]);
  for (const of of [memory.people, memory.items])
    for (const said of of.values()) for (const by of Object.values(said)) named.add(by);
  const changeOf = await standing(em, row, [...named]);
  const saidIn = (all: ReadonlyMap<string, FieldImports>): FieldsRepeatedLater =>
    new Map(
      [...all].flatMap(([id, said]) => {
        const fields = Object.entries(said).flatMap(([field, by]) => (changeOf.has(by) ? [field] : []));
        return fields.length > 0 ? [[id, new Set(fields)] as const] : [];
      }),
    );
  return {
    people: saidIn(memory.people),
    items: saidIn(memory.items),
    grades: new Map([...grades].filter(([by]) => changeOf.has(by))),
    changeOf,
    saying: (of, id) => Object.values(memory[of].get(id) ?? {}).filter((by) => changeOf.has(by)),
    unknown: await untold(em, row),
  };
}

async function memoriesOf(
  em: Em,
  of: Entries,
  course: number,
  changed: readonly EntryChange<{ readonly id: string }>[],
): Promise<Map<string, FieldImports>> {
  const all = new Map<string, FieldImports>();
  for (const slice of inSlices(changed, A_STEP))
    for (const [id, said] of await memoryOf(
      em,
      of,
      course,
      slice.map((c) => c.id),
    ))
      all.set(id, said);
  return all;
}

async function gradesAgain(em: Em, row: ChangeRow): Promise<Map<number, number>> {
  if (row.firstGrade == null) return new Map();
  const found = await rowsOf<{ by: number; n: number | string }>(
    em,
    em
      .getKnex()('grade')
      .select({ by: 'said_again_by' })
      .count({ n: '*' })
      .where({ course: row.course, change: row.id })
      .where('id', '>=', row.firstGrade)
      .whereNotNull('said_again_by')
      .groupBy('said_again_by'),
  );
  return new Map(found.map(({ by, n }) => [by, Number(n)]));
}

/** Those of the imports that stand, but for the one that the change itself is, with the changes that they became. */
async function standing(em: Em, row: ChangeRow, ids: readonly number[]): Promise<Map<number, number | null>> {
  const found: ImportRow[] = [];
  for (const slice of inSlices(ids))
    found.push(...(await em.find(ImportRow, { course: row.course, id: { $in: slice } }, { disableIdentityMap: true })));
  const changes = found.flatMap((i) => i.change ?? []);
  const undone = await em.find(
    ChangeRow,
    { course: row.course, id: { $in: changes }, undoneBy: { $ne: null } },
    { fields: ['id'], disableIdentityMap: true },
  );
  const out = new Set([row.id, ...undone.map((c) => c.id)]);
  return new Map(found.flatMap(({ id, change }) => (change != null && out.has(change) ? [] : [[id, change ?? null]])));
}

const untold = (em: Em, row: ChangeRow): Promise<number> =>
  em.count(ImportRow, {
    course: row.course,
    state: 'taken',
    saidAgain: null,
    at: { $gt: row.at },
    $or: [{ change: null }, { change: { $gt: row.id } }],
  });
