/**
 * What somebody types and has not saved yet is kept in this browser, in one way everywhere: closing a dialog, leaving a page or a
 * reload loses nothing; saving or discarding it lets it go.
 */
import { useCallback, useState } from 'react';

const STORE = 'zest-bell-draft ';

export const keptKey = (key: string): string => `${STORE}${key}`;

function read<T>(key: string): T | null {
  try {
    const text = localStorage.getItem(keptKey(key));
    return text === null ? null : (JSON.parse(text) as T);
  } catch {
    return null;
  }
}

export interface Kept<T> {
  readonly value: T;
  readonly set: (next: T | ((now: T) => T)) => void;
  /** Whether there is something typed that was not saved. */
  readonly dirty: boolean;
  /** Lets it go: what was there at first is there again. */
  readonly drop: () => void;
}

/** `key` names the thing that is written about; `initial` is what is saved. */
export function useKept<T>(key: string, initial: T): Kept<T> {
  const [value, setValue] = useState<T>(() => read<T>(key) ?? initial);
  const set = useCallback(
    (next: T | ((now: T) => T)) =>
      setValue((now) => {
        const then = typeof next === 'function' ? (next as (now: T) => T)(now) : next;
        localStorage.setItem(keptKey(key), JSON.stringify(then));
        return then;
      }),
    [key],
  );
  const saved = JSON.stringify(initial);
  return {
    value,
    set,
    dirty: JSON.stringify(value) !== saved,
    drop: () => {
      localStorage.removeItem(keptKey(key));
      setValue(initial);
    },
  };
}
