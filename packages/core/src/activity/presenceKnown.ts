/** How much a course knows about its students' visits (engine M5). */
import { LAST_SEEN, VISIT_RECORDS } from './event.ts';
import type { History } from './history.ts';

/** `visits`: a source records visits; `lastSeen`: only lists of last visits have been imported; `nothing`: neither. */
export type PresenceKnown = 'visits' | 'lastSeen' | 'nothing';

export function presenceKnown({ people }: Pick<History, 'people'>): PresenceKnown {
  if (people.some((log) => log.hasAny(VISIT_RECORDS))) return 'visits';
  return people.some((log) => log.hasAny(LAST_SEEN)) ? 'lastSeen' : 'nothing';
}
