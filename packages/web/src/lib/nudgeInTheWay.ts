/** Which earlier message used up a student’s message budget, in words. */
import { dayWords } from '@zest-bell/core/time';
import type { TakenBy } from '@zest-bell/core/rounds';
import type { CourseHere } from './here.ts';
import { useRules } from './queries.ts';

/** The names of the course's rules by id. */
export function useRuleNames(here: CourseHere): ReadonlyMap<string, string> {
  return new Map((useRules(here.id).data ?? []).map((c) => [c.rule.id, c.rule.name]));
}

/** "“Quiet for five days”, which comes first on Mon Oct 26", "a message by hand on Fri Oct 23"; null where nothing is known. */
export function nudgeInTheWayWords(
  taken: TakenBy | undefined | null,
  names: ReadonlyMap<string, string>,
  zone: string,
): string | null {
  if (!taken) return null;
  const day = dayWords(taken.at, zone);
  const name = taken.rule === null ? null : names.get(taken.rule);
  const who = taken.rule === null ? 'a message by hand' : name === undefined ? 'another rule' : `“${name}”`;
  return taken.coming ? `${who}, which comes first on ${day}` : `${who} on ${day}`;
}
