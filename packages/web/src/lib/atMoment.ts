/** Queries that depend on the moment: until the new moment's answer arrives, the previous one is shown. */
import { hashKey, type QueryKey } from '@tanstack/react-query';
import type { Instant } from '@zest-bell/core/time';

/**
 * The key of a question at a moment. A clock that moves on takes nothing off the screen, and so nothing that is being pressed or
 * written; another question (another student, wording or course) never shows the answer of the one before.
 */
export function atMoment(question: QueryKey, now: Instant) {
  return {
    queryKey: [...question, now],
    placeholderData: <T>(old: T | undefined, before?: { readonly queryKey: QueryKey }): T | undefined =>
      before && hashKey(before.queryKey.slice(0, -1)) === hashKey(question) ? old : undefined,
  };
}
