/** Values found by texts, whatever their case; several may share one. */

/** As texts are compared. */
export const key = (text: string): string => text.trim().toLowerCase();

/** Adds a value under a key of an index. */
export function indexed<T>(index: Map<string, T[]>, at: string | null | undefined, value: T): void {
  if (!at) return;
  const known = index.get(at);
  if (known) known.push(value);
  else index.set(at, [value]);
}

/** Takes a value out from under a key of an index. */
export function forgotten<T>(index: Map<string, T[]>, at: string | null, value: T): void {
  if (at === null) return;
  const rest = (index.get(at) ?? []).filter((v) => v !== value);
  if (rest.length === 0) index.delete(at);
  else index.set(at, rest);
}

/** All values by a text of theirs. */
export function indexBy<T>(values: readonly T[], textOf: (value: T) => string | null | undefined): Map<string, T[]> {
  const index = new Map<string, T[]>();
  for (const value of values) indexed(index, key(textOf(value) ?? ''), value);
  return index;
}
