/** What the instructor does that the server may refuse. */
import { toast } from 'sonner';
import { ApiProblem, errorWords } from './api.ts';
import { refreshAll } from './queries.ts';

/** Runs an action; a refusal becomes a toast and undefined. */
export async function attempt<T>(work: () => Promise<T>): Promise<T | undefined> {
  try {
    return await work();
  } catch (error) {
    toast.error(errorWords(error));
    return undefined;
  }
}

/**
 * The same for a save over a version that somebody else may have changed: everything is read again, and `meanwhile` shows both
 * side by side.
 */
export function attemptOver<T>(work: () => Promise<T>, meanwhile: () => void): Promise<T | undefined> {
  return attempt(async () => {
    try {
      return await work();
    } catch (error) {
      if (error instanceof ApiProblem && error.code === 'changedMeanwhile') {
        await refreshAll();
        meanwhile();
      }
      throw error;
    }
  });
}
