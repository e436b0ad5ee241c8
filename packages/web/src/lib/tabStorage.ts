/**
 * Storage in this browser in which each tab keeps its own entries, so that tabs never overwrite what is typed in another. A new tab starts
 * with copies of the entries that other tabs stored; an entry that it drops is dropped from the stores of closed tabs too.
 */
import type { PersistStorage, StorageValue } from 'zustand/middleware';

/** A state that holds things by their keys. */
type KeyedState<K extends string> = Readonly<Record<K, Readonly<Record<string, unknown>>>>;

interface StoredWrite {
  readonly at: number;
  readonly value: StorageValue<unknown>;
}

/** An entry of another tab as it was when it was copied. */
interface CopiedEntry {
  readonly store: string;
  readonly text: string;
}

/** `of`: the property of the state with the stored entries. `tab`: the name of this tab, which a reload does not change. */
export function tabStorage<K extends string, S extends KeyedState<K>>(
  of: K,
  tab: string = thisTab(),
): PersistStorage<S> {
  /** By key, one for each store that has the entry. */
  const copied = new Map<string, readonly CopiedEntry[]>();
  /** What this tab has stored, as text. */
  let stored: string | null = null;
  const entriesOf = (written: StoredWrite | null): Readonly<Record<string, unknown>> =>
    (written?.value.state as S | undefined)?.[of] ?? {};
  return {
    getItem(name) {
      copied.clear();
      const own = storeOf(name, tab);
      stored = localStorage.getItem(own);
      restoreWhileOpen(own);
      const before = read(own);
      if (before) return before.value as StorageValue<S>;
      const entries: Record<string, unknown> = {};
      const stores = storesOf(name);
      for (const store of stores) {
        for (const [key, entry] of Object.entries(entriesOf(read(store)))) {
          entries[key] = entry;
          copied.set(key, [...(copied.get(key) ?? []), { store, text: JSON.stringify(entry) }]);
        }
      }
      const last = stores.at(-1);
      const version = last === undefined ? undefined : read(last)?.value.version;
      return { state: { [of]: entries } as unknown as S, ...(version === undefined ? {} : { version }) };
    },
    setItem(name, value) {
      for (const [key, from] of copied) {
        if (key in value.state[of]) continue;
        copied.delete(key);
        for (const { store, text } of from) forget(store, key, text);
      }
      stored = JSON.stringify({ at: Date.now(), value } satisfies StoredWrite);
      localStorage.setItem(storeOf(name, tab), stored);
    },
    removeItem: (name) => localStorage.removeItem(storeOf(name, tab)),
  };

  /** Undoes what another tab does to the store of this one: only the stores of closed tabs are tidied. */
  function restoreWhileOpen(own: string): void {
    window.addEventListener('storage', ({ key }) => {
      if (key === own && stored !== null) localStorage.setItem(own, stored);
    });
  }

  /** Drops an entry of another store, unless it has changed since it was copied. */
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

/** The stores of all tabs, the last written at the end. */
const storesOf = (name: string): string[] =>
  Object.keys(localStorage)
    // Releases before 0.20 had one store for all tabs.
    .filter((key) => key === name || key.startsWith(`${name} `))
    .sort((a, b) => (read(a)?.at ?? 0) - (read(b)?.at ?? 0));

function read(store: string): StoredWrite | null {
  try {
    const text = localStorage.getItem(store);
    const written = text === null ? null : (JSON.parse(text) as StoredWrite | StorageValue<unknown>);
    return written && 'state' in written ? { at: 0, value: written } : written;
  } catch {
    return null;
  }
}

let named: string | null = null;
/** All stores of one page are of one tab. */
const thisTab = (): string => (named ??= ownTab());

const TAB = 'zest-bell-tab';
const LEFT = 'zest-bell-tab-left';

/**
 * The name of this tab. A copy of a tab has the session storage of the original; the original has not left its page, so the copy gets a name
 * of its own.
 */
export function ownTab(): string {
  const known = sessionStorage.getItem(TAB);
  const hasLeft = sessionStorage.getItem(LEFT) !== null;
  const tab = known !== null && hasLeft ? known : crypto.randomUUID();
  sessionStorage.setItem(TAB, tab);
  sessionStorage.removeItem(LEFT);
  window.addEventListener('pagehide', () => sessionStorage.setItem(LEFT, 'yes'));
  window.addEventListener('pageshow', () => sessionStorage.removeItem(LEFT));
  return tab;
}
