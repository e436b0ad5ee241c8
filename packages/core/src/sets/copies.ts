/** A rule or a wording of one course as it would stand in another of its set. */
import type { Course } from '../course/course.ts';
import { matchItems, soundTold, type ItemMatch, type ConfirmedMatches } from '../carry/match.ts';
import { carryRule, nobodys, type CarryProblem } from '../carry/rules.ts';
import { shiftBetween } from '../carry/shift.ts';
import { carryWordings, withChips } from '../carry/wordings.ts';
import type { Rule } from '../rules/rule.ts';
import type { Wording } from '../wording/wording.ts';

/** The way from one course of a set to another. */
export interface CopyMapping {
  readonly source: Course;
  readonly target: Course;
  /** The target's item by the source's; null without a match. A similar item is not a match before somebody confirms it. */
  readonly items: ReadonlyMap<string, string | null>;
  /** What looks alike and waits for a yes. */
  readonly proposed: readonly ItemMatch[];
}

/** Whether two courses run at the same time for at least a day: only such are of one set. */
export const isOneTerm = (a: Pick<Course, 'start' | 'end'>, b: Pick<Course, 'start' | 'end'>): boolean =>
  a.start <= b.end && b.start <= a.end;

export function copyMapping(source: Course, target: Course, told: ConfirmedMatches = {}): CopyMapping {
  const sound = soundTold(source.items, target.items, told);
  const matches = matchItems(source.items, target.items, sound);
  return {
    source,
    target,
    items: new Map(matches.map((m) => [m.from, m.how === 'alike' ? null : m.to])),
    proposed: matches.filter((m) => m.how === 'alike'),
  };
}

/** What was told of two courses, the other way round. */
export const reverseMatches = (told: ConfirmedMatches): ConfirmedMatches =>
  Object.fromEntries(Object.entries(told).flatMap(([from, to]) => (to === null ? [] : [[to, from]])));

/** `wording` gives the target's wording for one of the source's. */
export function ruleThere(
  rule: Rule,
  way: CopyMapping,
  wording: (id: string) => string,
): { readonly rule: Rule; readonly problems: readonly CarryProblem[] } {
  const inWords = (there: Rule): Rule => ({
    ...there,
    steps: there.steps.map((step) => ({ ...step, wording: wording(step.wording) })),
  });
  if (way.source === way.target) return { rule, problems: [] };
  const shift = shiftBetween(way.source, way.target);
  const carried = carryRule(rule, rule.id, { ...way, shift });
  return { rule: inWords(carried.rule), problems: carried.problems.filter((p) => p.code !== 'sections') };
}

/** Its chips name the target's items, and what it said of the source alone are fields. */
export function wordingThere(wording: Wording, way: CopyMapping): Wording {
  if (way.source === way.target) return wording;
  const [carried] = carryWordings([wording], [], way);
  return { ...withChips(carried!.wording, carried!.found), id: wording.id };
}

/** The source's item that has no match in the target, by the name that a rule there has for it. */
export function unmatchedItem(way: CopyMapping, name: string): string {
  const item = way.source.items.find((i) => way.items.get(i.id) == null && nobodys(i.id, way) === name);
  return item?.title ?? name;
}
