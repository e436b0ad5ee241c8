/**
 * What somebody types and has not saved yet is kept in this browser, in one way everywhere: closing a dialog, leaving a page or a
 * reload loses nothing; saving or discarding it lets it go. Each tab keeps its own.
 */
import { useCallback, useState } from 'react';
import { create } from 'zustand';
import { persist } from 'zustand/middleware';
import { tabStorage } from './tabStorage.ts';

interface KeptDrafts {
  readonly kept: Readonly<Record<string, unknown>>;
}

/** All that is kept, by its keys. */
export const useAllKept = create<KeptDrafts>()(
  persist((): KeptDrafts => ({ kept: {} }), { name: 'zest-bell-kept', version: 1, storage: tabStorage('kept') }),
);

/** Keeps drafts that did not come from typing, by their keys: {@link useKept} shows them. */
export function keepDrafts(drafts: Readonly<Record<string, unknown>>): void {
  useAllKept.setState(({ kept }) => ({ kept: { ...kept, ...drafts } }));
}

function dropDraft(key: string): void {
  useAllKept.setState(({ kept }) => {
    const { [key]: _gone, ...rest } = kept;
    return { kept: rest };
  });
}

/** Releases before 0.20 kept one draft for all tabs, each under a name of its own. */
function takeOver(): void {
  for (const name of Object.keys(localStorage)) {
    const key = keyBefore(name);
    if (key === null) continue;
    const text = localStorage.getItem(name) ?? '';
    try {
      keepDrafts({ [key]: name.startsWith(ANSWER) ? text : (JSON.parse(text) as unknown) });
    } catch {
      // What cannot be read is as if nothing had been kept.
    }
    localStorage.removeItem(name);
  }
}

const DRAFT = 'zest-bell-draft ';
const ANSWER = 'zest-bell-answer ';

/** The key of today for the name of before, or null for something else. */
function keyBefore(name: string): string | null {
  if (name === 'zest-bell-new-course') return 'new course';
  if (name.startsWith(ANSWER)) return `answer ${name.slice(ANSWER.length)}`;
  return name.startsWith(DRAFT) ? name.slice(DRAFT.length) : null;
}

takeOver();

export interface KeptValue<T> {
  readonly value: T;
  readonly set: (next: T | ((now: T) => T)) => void;
  /** Whether there is something typed that was not saved. */
  readonly dirty: boolean;
  /** Lets it go: what was there at first is there again. */
  readonly drop: () => void;
}

/** `key` names the thing that is written about; `initial` is what is saved. */
export function useKept<T>(key: string, initial: T): KeptValue<T> {
  const [first, setFirst] = useState(initial);
  const valueIn = useCallback(({ kept }: KeptDrafts): T => (key in kept ? (kept[key] as T) : first), [key, first]);
  const value = useAllKept(valueIn);
  const set = useCallback(
    (next: T | ((now: T) => T)) => {
      const now = valueIn(useAllKept.getState());
      keepDrafts({ [key]: typeof next === 'function' ? (next as (now: T) => T)(now) : next });
    },
    [key, valueIn],
  );
  return {
    value,
    set,
    dirty: JSON.stringify(value) !== JSON.stringify(initial),
    drop: () => {
      dropDraft(key);
      setFirst(initial);
    },
  };
}
