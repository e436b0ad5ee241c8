/** Those that share a key, by it, in the order in which they came; those with none are left out. */
export function grouped<T>(all: readonly T[], keyOf: (one: T) => string | null): Map<string, T[]> {
  const groups = new Map<string, T[]>();
  for (const one of all) {
    const key = keyOf(one);
    if (key === null) continue;
    const group = groups.get(key);
    if (group) group.push(one);
    else groups.set(key, [one]);
  }
  return groups;
}
