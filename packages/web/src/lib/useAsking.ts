/** Asking the server for something from a form: whether it is on its way, and what of it was refused, field by field. */
import { useState } from 'react';
import { toast } from 'sonner';
import type { Problem } from '@zest-bell/core/problem';
import { ApiProblem, errorWords } from './api.ts';

export interface RequestState {
  readonly busy: boolean;
  /** Why the last try was refused; null if it was not. */
  readonly error: unknown;
  /** The first problem at a path, or at one below it. */
  readonly problemAt: (path: string) => string | undefined;
  /** Nothing is refused any more: something else was typed. */
  readonly clear: () => void;
  /** Tells what went wrong, and returns whether all of it was done. */
  readonly run: (work: () => Promise<void>) => Promise<boolean>;
}

const inToast = (error: unknown) => void toast.error(errorWords(error));

/** `tell` says what went wrong: in a toast, where the caller does not show `error` itself. */
export function useAsking(tell: (error: unknown) => void = inToast): RequestState {
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<unknown>(null);
  const refused: readonly Problem[] = error instanceof ApiProblem ? error.problems : [];
  const isBelow = (at: string, path: string) => at === path || at.startsWith(`${path}.`) || at.startsWith(`${path}[`);
  return {
    busy,
    error,
    problemAt: (path) => refused.find((p) => isBelow(p.path, path))?.message,
    clear: () => setError(null),
    async run(work) {
      setBusy(true);
      setError(null);
      try {
        await work();
        return true;
      } catch (why) {
        setError(why);
        tell(why);
        return false;
      } finally {
        setBusy(false);
      }
    },
  };
}
