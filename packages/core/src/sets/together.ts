/** Two people change one rule at a time: what does not collide is merged, and what does is named, with what each side says. */
import type { CourseSettings } from '../course/course.ts';
import type { SenderSettings } from '../course/sender.ts';
import type { CourseGuards, CourseLimits } from '../rounds/decide/courseLimits.ts';
import type { Rule } from '../rules/rule.ts';
import type { Wording } from '../wording/wording.ts';
import { partsOfRule, partsOfWording, ruleOfParts, wordingOfParts, type DocumentParts } from './parts.ts';
import { compareParts, mergeParts, type PartLine } from './threeWays.ts';

export interface MergedEdits {
  /** With both people's changes; where both changed a part it says what the draft says. */
  readonly parts: DocumentParts;
  /** Parts that were saved in the meantime, those that the draft changed, and those that both did. */
  readonly theirs: readonly string[];
  readonly own: readonly string[];
  readonly both: readonly PartLine[];
}

/** `base` is what the draft was begun from, `saved` what is now. */
function mergeMeanwhile(base: DocumentParts, own: DocumentParts, saved: DocumentParts): MergedEdits {
  const lines = compareParts(base, own, saved);
  const of = (state: PartLine['state']) => lines.filter((l) => l.state === state);
  const both = of('conflict');
  const picks = Object.fromEntries(both.map((l) => [l.part, 'here' as const]));
  const { parts } = mergeParts(saved, lines, picks);
  return { parts, theirs: of('kept').map((l) => l.part), own: of('taken').map((l) => l.part), both };
}

export type MergedDocument<T> = Omit<MergedEdits, 'parts'> & { readonly merged: T };

/** In one course its own parts count too: whom it leaves out, and from when spells count. */
const wholeOf = (rule: Rule): DocumentParts => ({
  ...partsOfRule(rule),
  audience: rule.audience,
  spellsFrom: rule.spellsFrom,
});

export function mergeRules(base: Rule, draft: Rule, saved: Rule): MergedDocument<Rule> {
  // The roles are of the audience, which is compared whole.
  const partsOf = (rule: Rule): DocumentParts => {
    const { roles: _of, ...parts } = wholeOf(rule);
    return parts;
  };
  const { parts, ...more } = mergeMeanwhile(partsOf(base), partsOf(draft), partsOf(saved));
  const { audience, spellsFrom } = parts as unknown as Pick<Rule, 'audience' | 'spellsFrom'>;
  return { ...more, merged: { ...ruleOfParts(saved, { ...parts, roles: audience.roles }), audience, spellsFrom } };
}

export function mergeWordings(base: Wording, draft: Wording, saved: Wording): MergedDocument<Wording> {
  const { parts, ...more } = mergeMeanwhile(partsOfWording(base), partsOfWording(draft), partsOfWording(saved));
  return { ...more, merged: wordingOfParts(saved, parts) };
}

export function mergeLimits(
  base: CourseLimits,
  draft: CourseLimits,
  saved: CourseLimits,
): MergedDocument<CourseLimits> {
  const partsOf = ({ settings, guards, breaks, marks }: CourseLimits): DocumentParts => ({
    ...settings,
    ...guards,
    breaks,
    marks,
  });
  const { parts, ...more } = mergeMeanwhile(partsOf(base), partsOf(draft), partsOf(saved));
  const { quietHours, budget, askAbove, staleHours, breaks, marks } = parts as unknown as CourseSettings &
    CourseGuards &
    Pick<CourseLimits, 'breaks' | 'marks'>;
  return { ...more, merged: { settings: { quietHours, budget }, guards: { askAbove, staleHours }, breaks, marks } };
}

export function mergeSenders(
  base: SenderSettings,
  draft: SenderSettings,
  saved: SenderSettings,
): MergedDocument<SenderSettings> {
  const partsOf = (sender: SenderSettings): DocumentParts => ({ ...sender });
  const { parts, ...more } = mergeMeanwhile(partsOf(base), partsOf(draft), partsOf(saved));
  return { ...more, merged: { ...saved, ...parts } };
}
