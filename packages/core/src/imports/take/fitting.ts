/** What no door lets into a course (engine §6), files neither: people and items are added and changed only so that they fit. */
import type { z } from 'zod';
import { RefusedRow } from '../read/refused.ts';

/** The header of the column that holds a field; null if no column does. */
export type NameOfColumn = (field: string) => string | null;
export const noColumn: NameOfColumn = () => null;

/** Throws `RefusedRow` with the column of the first field that does not fit. */
export function mustFit(schema: z.ZodType, entry: object, column: NameOfColumn): void {
  const [issue] = schema.safeParse(entry).error?.issues ?? [];
  if (!issue) return;
  const field = String(issue.path[0] ?? '');
  throw new RefusedRow(column(field) ?? field, 'bounds', issue.message);
}

/** What a row changed of an entry. */
export interface FittedEntry<T> {
  /** What the entry was; null where nothing is different. */
  readonly before: T | null;
  /** Fields that were written as they were already. */
  readonly again: readonly string[];
}

/** Changes an entry. Throws `RefusedRow` where it would not fit any more, and leaves it as it was. */
export function changeFitting<T extends object>(
  schema: z.ZodType,
  entry: T,
  change: (entry: T) => void,
  column: NameOfColumn,
): FittedEntry<T> {
  const [before, after] = [{ ...entry }, { ...entry }];
  const written = new Set<string>();
  const set = (target: T, field: string | symbol, value: unknown) => {
    written.add(String(field));
    return Reflect.set(target, field, value);
  };
  change(new Proxy(after, { set }));
  // The same moment, told in another offset, is the same.
  for (const field of written)
    if (isOneMoment(field, before, after)) Object.assign(after, { [field]: before[field as keyof T] });
  const asText = (value: unknown) => JSON.stringify(value ?? null);
  const again = [...written].filter((f) => asText(before[f as keyof T]) === asText(after[f as keyof T]));
  if (JSON.stringify(after) === JSON.stringify(before)) return { before: null, again };
  mustFit(schema, after, column);
  Object.assign(entry, after);
  return { before, again };
}

const MOMENTS: ReadonlySet<string> = new Set(['enrolledAt', 'opensAt', 'dueAt']);

function isOneMoment(field: string, before: object, after: object): boolean {
  if (!MOMENTS.has(field)) return false;
  const [was, is] = [before[field as never], after[field as never]] as readonly unknown[];
  return typeof was === 'string' && typeof is === 'string' && Date.parse(was) === Date.parse(is);
}
