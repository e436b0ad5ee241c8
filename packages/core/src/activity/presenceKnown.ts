/** What a course knows of when its students were there (engine M5). */
import { LAST_SEEN, VISIT_RECORDS } from './event.ts';
import type { History } from './history.ts';

/** `visits`: some visits are recorded; `lastSeen`: lists have told when students were last seen, and that is all. */
export type PresenceKnown = 'visits' | 'lastSeen' | 'nothing';

export function presenceKnown({ people }: Pick<History, 'people'>): PresenceKnown {
  if (people.some((log) => log.hasAny(VISIT_RECORDS))) return 'visits';
  return people.some((log) => log.hasAny(LAST_SEEN)) ? 'lastSeen' : 'nothing';
}
