/** Asking the server for something from a form: whether it is on its way, and what of it was refused, field by field. */
import { useState } from 'react';
import { toast } from 'sonner';
import type { Problem } from '@zest-bell/core/problem';
import { ApiProblem, errorWords } from './api.ts';

export interface RequestState {
  readonly busy: boolean;
  /** The first problem at a path, or at one below it. */
  readonly problemAt: (path: string) => string | undefined;
  /** Nothing is refused any more: something else was typed. */
  readonly clear: () => void;
  /** Says in a toast what went wrong; whether all of it was done. */
  readonly run: (work: () => Promise<void>) => Promise<boolean>;
}

export function useAsking(): RequestState {
  const [busy, setBusy] = useState(false);
  const [refused, setRefused] = useState<readonly Problem[]>([]);
  const isBelow = (at: string, path: string) => at === path || at.startsWith(`${path}.`) || at.startsWith(`${path}[`);
  return {
    busy,
    problemAt: (path) => refused.find((p) => isBelow(p.path, path))?.message,
    clear: () => setRefused([]),
    async run(work) {
      setBusy(true);
      setRefused([]);
      try {
        await work();
        return true;
      } catch (error) {
        setRefused(error instanceof ApiProblem ? error.problems : []);
        toast.error(errorWords(error));
        return false;
      } finally {
        setBusy(false);
      }
    },
  };
}
