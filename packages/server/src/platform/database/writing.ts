/**
 * The one place that writes rows. Each function takes the declaration of the table, and compiles only in a transaction that holds one of the
 * table's owners. Which course or account is held is checked when a row is written (`held.ts`).
 */
import type { EntitySchema, FilterQuery, RequiredEntityData, UpsertOptions } from '@mikro-orm/core';
import { mustHold } from './held.ts';
import type { Holds, Owner, RowOf } from './holds.ts';
import type { AnyEm, Em, Holding, ReadRow, Tx } from './orm.ts';

type HeldBy<H extends Holding> = H extends Holding ? Tx<H> : never;
/** A transaction that may write a table with these owners. */
export type HolderOf<O extends Owner> = 'process' extends O ? Tx : HeldBy<Exclude<O, 'process'>>;

const any = (tx: Em): AnyEm => tx as unknown as AnyEm;

/** Adds a row and returns it as it is stored, with its id. */
export async function insertRow<S extends EntitySchema, O extends Owner>(
  tx: HolderOf<O>,
  table: Holds<S, O>,
  row: RequiredEntityData<RowOf<S>>,
): Promise<ReadRow<RowOf<S>>> {
  mustHold(tx, table, row);
  const em = any(tx);
  const made: unknown = em.create(table.entity, row);
  await em.flush();
  return made as ReadRow<RowOf<S>>;
}

/** Adds rows in one statement where the database allows it, and returns them with their ids, in their order. */
export async function insertRows<S extends EntitySchema, O extends Owner>(
  tx: HolderOf<O>,
  table: Holds<S, O>,
  rows: readonly RequiredEntityData<RowOf<S>>[],
): Promise<ReadRow<RowOf<S>>[]> {
  for (const row of rows) mustHold(tx, table, row);
  const em = any(tx);
  const made = rows.map((row): unknown => em.create(table.entity, row));
  await em.flush();
  return made as ReadRow<RowOf<S>>[];
}

/** Adds very many rows, of which nothing is read afterwards. */
export async function insertManyRows<S extends EntitySchema, O extends Owner>(
  tx: HolderOf<O>,
  table: Holds<S, O>,
  rows: readonly RequiredEntityData<RowOf<S>>[],
): Promise<void> {
  if (rows.length === 0) return;
  for (const row of rows) mustHold(tx, table, row);
  await any(tx as Em).insertMany(table.entity, [...rows]);
}

/** Changes one row that was read in this transaction, and the object that was read. */
export async function updateRow<S extends EntitySchema, O extends Owner>(
  tx: HolderOf<O>,
  table: Holds<S, O>,
  row: Partial<RowOf<S>>,
  set: Partial<RowOf<S>>,
): Promise<void> {
  mustHold(tx, table, row);
  Object.assign(row, set);
  await any(tx).flush();
}

/** Changes the rows that fit, and returns how many that were. Objects that were read before do not change. */
export async function updateRows<S extends EntitySchema, O extends Owner>(
  tx: HolderOf<O>,
  table: Holds<S, O>,
  where: FilterQuery<RowOf<S>>,
  set: Partial<RequiredEntityData<RowOf<S>>>,
): Promise<number> {
  mustHold(tx, table, where);
  return any(tx as Em).nativeUpdate(table.entity, where, set as never);
}

/** Removes the rows that fit, and returns how many that were. */
export async function removeRows<S extends EntitySchema, O extends Owner>(
  tx: HolderOf<O>,
  table: Holds<S, O>,
  where: FilterQuery<RowOf<S>>,
): Promise<number> {
  mustHold(tx, table, where);
  return any(tx as Em).nativeDelete(table.entity, where);
}

/** Adds rows, or changes those that are there. */
export async function upsertRows<S extends EntitySchema, O extends Owner>(
  tx: HolderOf<O>,
  table: Holds<S, O>,
  rows: readonly Partial<RequiredEntityData<RowOf<S>>>[],
  options?: UpsertOptions<RowOf<S>>,
): Promise<void> {
  if (rows.length === 0) return;
  for (const row of rows) mustHold(tx, table, row);
  await any(tx as Em).upsertMany(table.entity, rows as never, options as never);
}

/** Adds a row, or changes the one that is there. */
export async function upsertRow<S extends EntitySchema, O extends Owner>(
  tx: HolderOf<O>,
  table: Holds<S, O>,
  row: Partial<RequiredEntityData<RowOf<S>>>,
  options?: UpsertOptions<RowOf<S>>,
): Promise<void> {
  mustHold(tx, table, row);
  await any(tx as Em).upsert(table.entity, row, options as never);
}
