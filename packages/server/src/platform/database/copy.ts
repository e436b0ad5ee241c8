/**
 * Everything of one database into another that is empty, whatever either runs on: table by table in the order of their keys, and read
 * back row by row.
 */
import type { EntityMetadata, EntityProperty } from '@mikro-orm/core';
import type { Em, Orm, Tx } from './orm.ts';
import { isOnServer } from './postgres.ts';
import { inSlices, insertAsStored, rowsOf } from './query.ts';

/** Rows that are read at once. */
const PAGE = 500;
/** Values of one statement, well under what databases take. */
const MOST_VALUES = 20_000;

/** The other database has something in it, or came out otherwise. The message is a sentence. */
export class CopyRefused extends Error {}

type CopiedRow = Readonly<Record<string, unknown>>;

interface CopiedTable {
  readonly name: string;
  readonly keys: readonly string[];
  readonly columns: readonly CopiedColumn[];
}

interface CopiedColumn {
  readonly name: string;
  readonly kind: 'yesNo' | 'bytes' | 'number' | 'text';
}

/** Copies within two transactions, of which the one that reads sees one moment. Returns how many rows there were. Throws a CopyRefused. */
export async function copyDatabase(from: Em, to: Tx, entities: Orm): Promise<number> {
  const tables = Object.values(entities.getMetadata().getAll())
    .map(tableOf)
    .sort((a, b) => (a.name < b.name ? -1 : 1));
  for (const { name } of tables) {
    const [found] = await rowsOf<object>(to, to.getKnex()(name).select(to.getKnex().raw('1')).limit(1));
    if (found) throw new CopyRefused(`The other database is not empty: there is something in its table “${name}”`);
  }
  let rows = 0;
  for (const table of tables) rows += await copyTable(from, to, table);
  return rows;
}

function tableOf(meta: EntityMetadata): CopiedTable {
  const stored = meta.props.filter((p) => p.persist !== false && p.fieldNames?.length === 1);
  return {
    name: meta.tableName,
    keys: meta.getPrimaryProps().map((p) => p.fieldNames[0]!),
    columns: stored.map((p) => ({ name: p.fieldNames[0]!, kind: kindOf(p) })),
  };
}

function kindOf({ runtimeType, columnTypes }: EntityProperty): CopiedColumn['kind'] {
  if (runtimeType === 'boolean') return 'yesNo';
  if (/blob|bytea/.test(columnTypes[0] ?? '')) return 'bytes';
  return /int|serial|double|float|real/.test(columnTypes[0] ?? '') ? 'number' : 'text';
}

async function copyTable(from: Em, to: Tx, table: CopiedTable): Promise<number> {
  let count = 0;
  for await (const page of pagesOf(from, table)) {
    for (const slice of inSlices(page, MOST_VALUES / table.columns.length)) {
      const rows = slice.map((row) => Object.fromEntries(table.columns.map((c) => [c.name, valueOf(row, c)])));
      await insertAsStored(to, table.name, rows);
    }
    count += page.length;
  }
  await same(from, to, table);
  if (isOnServer(to)) await countOn(to, table);
  return count;
}

/** Rows in the order of their keys, texts by their bytes. */
async function* pagesOf(em: Em, { name, keys, columns }: CopiedTable): AsyncGenerator<readonly CopiedRow[], undefined> {
  const knex = em.getKnex();
  const isText = (key: string) => columns.find((c) => c.name === key)?.kind === 'text';
  const ordered = keys.map((k) => knex.raw(isOnServer(em) && isText(k) ? '?? collate "C"' : '??', [k]).toQuery());
  for (let last: CopiedRow | null = null; ;) {
    const query = knex(name).select('*').orderByRaw(ordered.join(', ')).limit(PAGE);
    if (last !== null) {
      const from: CopiedRow = last;
      void query.whereRaw(
        `(${ordered.join(', ')}) > (${keys.map(() => '?').join(', ')})`,
        keys.map((k) => from[k] as string),
      );
    }
    const page: readonly CopiedRow[] = await rowsOf<CopiedRow>(em, query);
    if (page.length === 0) return;
    yield page;
    last = page.at(-1)!;
  }
}

/** A value as either database takes it. */
function valueOf(row: CopiedRow, { name, kind }: CopiedColumn): unknown {
  const value = row[name];
  if (value === null || value === undefined) return null;
  if (kind === 'yesNo') return Boolean(value);
  if (kind === 'bytes') return Buffer.from(value as Uint8Array);
  return value;
}

/** Reads both again, side by side. */
async function same(from: Em, to: Em, table: CopiedTable): Promise<void> {
  const there = pagesOf(to, table);
  const wrong = (row: CopiedRow) =>
    new CopyRefused(
      `A row of the table “${table.name}” came out otherwise: ${table.keys.map((k) => String(row[k])).join(', ')}`,
    );
  for await (const page of pagesOf(from, table)) {
    const copies = (await there.next()).value ?? [];
    for (const [i, row] of page.entries()) {
      const copy = copies[i];
      if (!copy || !table.columns.every((c) => isSame(valueOf(row, c), valueOf(copy, c)))) throw wrong(row);
    }
    if (copies.length !== page.length) throw wrong(copies.at(-1)!);
  }
  const more = await there.next();
  if (!more.done) throw wrong(more.value[0]!);
}

const isSame = (a: unknown, b: unknown): boolean => (Buffer.isBuffer(a) && Buffer.isBuffer(b) ? a.equals(b) : a === b);

/** Ids that the database gives from here on follow those that came. */
async function countOn(to: Tx, { name, keys }: CopiedTable): Promise<void> {
  const [key] = keys;
  const [owned] = await to
    .getConnection()
    .execute<{ sequence: string | null }[]>(
      'select pg_get_serial_sequence(?, ?) as sequence',
      [`"${name}"`, key],
      'all',
      to.getTransactionContext(),
    );
  if (!owned?.sequence) return;
  const knex = to.getKnex();
  await rowsOf(
    to,
    knex.select(
      knex.raw(`setval(?, coalesce((select max(??) from ??), 1), (select count(*) from ??) > 0)`, [
        owned.sequence,
        key!,
        name,
        name,
      ]),
    ),
  );
}
