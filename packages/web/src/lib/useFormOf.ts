/**
 * A form of something that has versions: what is typed is kept with what it was begun from, so that what somebody else saves
 * in the meantime neither takes it away nor is overwritten unseen.
 */
import { useKept } from './useKept.ts';

interface BegunDraft<T> {
  readonly version: number;
  /** Not there for what was typed before it was kept. */
  readonly base?: T;
  readonly draft: T;
}

export interface FormOf<T> {
  readonly value: T;
  readonly set: (next: T | ((now: T) => T)) => void;
  readonly dirty: boolean;
  /** The version that the draft is based on: it is sent too. */
  readonly version: number;
  /** What the draft was begun from, where somebody saved something else since; null otherwise. */
  readonly begunFrom: T | null;
  /** Goes on with a draft, as one of what is saved now. */
  readonly goOn: (draft: T) => void;
  readonly drop: () => void;
}

const isSame = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);

export function useFormOf<T>(key: string, saved: T, version: number): FormOf<T> {
  const fresh = { version, base: saved, draft: saved };
  const kept = useKept<BegunDraft<T>>(key, fresh);
  // Nothing was typed: it is what is saved now.
  const begun = isSame(kept.value.draft, kept.value.base) ? fresh : kept.value;
  const base = begun.base ?? saved;
  const isOld = begun.version !== version && (begun.base === undefined || !isSame(base, saved));
  return {
    value: begun.draft,
    set: (next) =>
      kept.set((k) => {
        const from = isSame(k.draft, k.base) ? fresh : k;
        return { ...from, draft: typeof next === 'function' ? (next as (now: T) => T)(from.draft) : next };
      }),
    dirty: !isSame(begun.draft, saved),
    version: isOld ? begun.version : version,
    begunFrom: isOld ? base : null,
    goOn: (draft) => kept.set({ ...fresh, draft }),
    drop: kept.drop,
  };
}
