import { contract } from '@zest-bell/core/contract';
import type { SessionAnswer } from '@zest-bell/core/exchange';
import { ask } from './api.ts';
import { queryClient } from './queries.ts';

/** Ends the session of this browser, or of every browser, and forgets what was read in it. */
export async function signOut(everywhere = false): Promise<void> {
  const session = queryClient.getQueryData<SessionAnswer>(['session']);
  await ask(everywhere ? contract.access.signOutEverywhere : contract.access.signOut);
  queryClient.clear();
  // They are still signed in at their institution, and may want to end that too.
  window.location.assign(session?.account && session.directory?.canSignOut ? '/signed-out' : '/');
}
