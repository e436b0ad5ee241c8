import { contract } from '@zest-bell/core/contract';
import { ask } from './api.ts';
import { queryClient } from './queries.ts';

/** Ends the session of this browser, or of every browser, and forgets what was read in it. */
export async function signOut(everywhere = false): Promise<void> {
  await ask(everywhere ? contract.access.signOutEverywhere : contract.access.signOut);
  queryClient.clear();
  window.location.assign('/');
}
