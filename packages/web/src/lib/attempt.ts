/** What the instructor does that the server may refuse. */
import { toast } from 'sonner';
import { errorWords } from './api.ts';

/** Runs an action; a refusal becomes a toast and undefined. */
export async function attempt<T>(work: () => Promise<T>): Promise<T | undefined> {
  try {
    return await work();
  } catch (error) {
    toast.error(errorWords(error));
    return undefined;
  }
}
