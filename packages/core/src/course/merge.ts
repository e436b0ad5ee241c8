/** Two people who edit one thing: both changes are kept, unless they give the same field different values. */
import { isSame } from './changes.ts';

/** Something that two people changed at a time, by its field and, within it, its key. */
export interface Collision {
  readonly field: string;
  readonly key: string | null;
  readonly theirs: unknown;
}

export interface MergedSet<T> {
  readonly set: T;
  readonly collisions: readonly Collision[];
}

/** By what members of a list are told apart: excused students by their id, extensions by whom they are for, breaks by their first day. */
const KEYS: Readonly<Record<string, (member: never) => string>> = {
  excused: (id: string) => id,
  extensions: (e: { readonly person?: string; readonly section?: string }) =>
    e.person === undefined ? `section ${e.section}` : `person ${e.person}`,
  breaks: (b: { readonly from: string }) => b.from,
};

/**
 * Merges the fields that one person set into the current entry. `was`: the fields as that person had them before. A field without `was`
 * replaces the current one, except that own columns, excused students, extensions and breaks keep the keys that are not named. `seen`:
 * changes by others that the person has seen and replaces on purpose.
 */
export function mergedSet<T extends object>(
  now: Partial<T>,
  set: T,
  was: Partial<T> | undefined,
  seen: Partial<T> = {},
): MergedSet<T> {
  const collisions: Collision[] = [];
  const merged = Object.fromEntries(
    Object.entries(set).map(([field, mine]) => {
      const name = field as keyof T;
      if (!was || !Object.hasOwn(was, field)) return [field, addedTo(field, now[name], mine)];
      const of = { now: now[name], mine: mine as unknown, was: was[name], seen: seen[name] };
      return [field, mergedField(field, of, Object.hasOwn(seen, field), collisions)];
    }),
  );
  return { set: merged as T, collisions };
}

/** What a client sets that does not say what it had before: its keys, and those that it does not name. */
function addedTo(field: string, now: unknown, mine: unknown): unknown {
  const keyOf = KEYS[field];
  if (field === 'fields' && isRecord(now) && isRecord(mine)) return { ...(now as object), ...(mine as object) };
  if (!keyOf || !Array.isArray(now) || !Array.isArray(mine)) return mine;
  const all = [...(now as never[]), ...(mine as never[])];
  return [...new Map(all.map((member): [string, unknown] => [keyOf(member), member])).values()];
}

/** A field that was left empty is as one that has no value. */
const filled = (value: unknown): unknown => (value === '' ? null : value);

function mergedField(
  field: string,
  { now, mine, was, seen }: Readonly<Record<'now' | 'mine' | 'was' | 'seen', unknown>>,
  isSeen: boolean,
  collisions: Collision[],
): unknown {
  if (isSame(filled(mine), filled(was))) return now;
  if (isSame(filled(now), filled(was)) || isSame(now, mine)) return mine;
  const keyOf = KEYS[field];
  const isKeyed = keyOf ? [now, mine, was].every(Array.isArray) : [now, mine, was].every(isRecord);
  if (!isKeyed) {
    if (isSeen && isSame(filled(now), filled(seen))) return mine;
    collisions.push({ field, key: null, theirs: now });
    return now;
  }
  const byKey = (value: unknown): ReadonlyMap<string, unknown> =>
    keyOf
      ? new Map(((value ?? []) as never[]).map((member): [string, unknown] => [keyOf(member), member]))
      : new Map(Object.entries(value ?? {}));
  const [current, own, before, looked] = [byKey(now), byKey(mine), byKey(was), byKey(seen)];
  const merged = new Map<string, unknown>();
  for (const key of new Set([...current.keys(), ...own.keys()])) {
    const [theirs, ours, old] = [current.get(key), own.get(key), before.get(key)];
    const value = isSame(ours, old) ? theirs : ours;
    const collides = !isSame(ours, old) && !isSame(theirs, old) && !isSame(theirs, ours);
    if (collides && !(isSeen && isSame(theirs, looked.get(key)))) collisions.push({ field, key, theirs });
    if (value !== undefined) merged.set(key, value);
  }
  return keyOf ? [...merged.values()] : Object.fromEntries(merged);
}

/** What a field has at a key; the field itself where the key is null. */
export function valueAt(field: string, value: unknown, key: string | null): unknown {
  if (key === null) return value;
  const keyOf = KEYS[field];
  if (keyOf) return ((value ?? []) as never[]).find((member) => keyOf(member) === key);
  return (value as Readonly<Record<string, unknown>> | null | undefined)?.[key];
}

const isRecord = (value: unknown): boolean => typeof value === 'object' && value !== null && !Array.isArray(value);
