/**
 * Storage of this browser in which every tab keeps what is its own: what is typed in one never takes the place of what is typed in
 * another. A new tab begins with what earlier ones left, the latest first; what it lets go of that is gone there as well.
 */
import type { PersistStorage, StorageValue } from 'zustand/middleware';

/** A state that holds things by their keys. */
type Kept<K extends string> = Readonly<Record<K, Readonly<Record<string, unknown>>>>;

interface Written {
  readonly at: number;
  readonly value: StorageValue<unknown>;
}

/** `of`: the property of the state whose entries are kept. `tab` names this tab, also after a reload. */
export function tabStorage<K extends string, S extends Kept<K>>(of: K, tab: string = ownTab()): PersistStorage<S> {
  /** Taken over from another tab: where it stands, and what it said. */
  const adopted = new Map<string, { readonly store: string; readonly text: string }>();
  const entriesOf = (written: Written | null): Readonly<Record<string, unknown>> =>
    (written?.value.state as S | undefined)?.[of] ?? {};
  return {
    getItem(name) {
      adopted.clear();
      const own = read(storeOf(name, tab));
      const entries: Record<string, unknown> = {};
      for (const store of storesOf(name).filter((s) => s !== storeOf(name, tab))) {
        for (const [key, entry] of Object.entries(entriesOf(read(store)))) {
          entries[key] = entry;
          adopted.set(key, { store, text: JSON.stringify(entry) });
        }
      }
      // A tab that was here before goes on with its own alone.
      if (own) {
        adopted.clear();
        return own.value as StorageValue<S>;
      }
      const version = newest(name)?.value.version;
      return { state: { [of]: entries } as unknown as S, ...(version === undefined ? {} : { version }) };
    },
    setItem(name, value) {
      const entries = value.state[of];
      for (const [key, { store, text }] of adopted) {
        if (key in entries) continue;
        adopted.delete(key);
        forget(store, key, text);
      }
      localStorage.setItem(storeOf(name, tab), JSON.stringify({ at: Date.now(), value } satisfies Written));
    },
    removeItem: (name) => localStorage.removeItem(storeOf(name, tab)),
  };

  function forget(store: string, key: string, text: string): void {
    const written = read(store);
    const entries = entriesOf(written);
    if (!written || JSON.stringify(entries[key]) !== text) return;
    const { [key]: _gone, ...rest } = entries;
    if (Object.keys(rest).length === 0) return localStorage.removeItem(store);
    const value = { ...written.value, state: { [of]: rest } };
    localStorage.setItem(store, JSON.stringify({ ...written, value }));
  }
}

const storeOf = (name: string, tab: string): string => `${name} ${tab}`;

/** The stores of all tabs that were ever here, the one that was written to last at the end. */
const storesOf = (name: string): string[] =>
  Object.keys(localStorage)
    // Releases before 0.20 had one store for all tabs.
    .filter((key) => key === name || key.startsWith(`${name} `))
    .sort((a, b) => (read(a)?.at ?? 0) - (read(b)?.at ?? 0));

const newest = (name: string): Written | null => {
  const last = storesOf(name).at(-1);
  return last === undefined ? null : read(last);
};

function read(store: string): Written | null {
  try {
    const text = localStorage.getItem(store);
    const written = text === null ? null : (JSON.parse(text) as Written | StorageValue<unknown>);
    return written && 'state' in written ? { at: 0, value: written } : written;
  } catch {
    return null;
  }
}

const TAB = 'zest-bell-tab';

/** The same after a reload, and another one for a tab that was opened or made a copy of. */
function ownTab(): string {
  const [navigation] = performance.getEntriesByType?.('navigation') ?? [];
  const known = sessionStorage.getItem(TAB);
  if (known !== null && (navigation as PerformanceNavigationTiming | undefined)?.type === 'reload') return known;
  const fresh = crypto.randomUUID();
  sessionStorage.setItem(TAB, fresh);
  return fresh;
}
