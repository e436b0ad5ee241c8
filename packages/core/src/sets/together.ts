/** Two people change one rule at a time: what does not collide is merged, and what does is named, with what each side says. */
import type { Rule } from '../rules/rule.ts';
import { partsOfRule, ruleOfParts, type Parts } from './parts.ts';
import { compareParts, mergeParts, type PartLine } from './threeWays.ts';

export interface Together {
  /** With both people's changes; where both changed a part it says what the draft says. */
  readonly rule: Rule;
  /** Parts that were saved meanwhile, those that the draft changed, and those that both did. */
  readonly theirs: readonly string[];
  readonly own: readonly string[];
  readonly both: readonly PartLine[];
}

/** In one course its own parts count too: whom it leaves out, and from when spells count. */
const wholeOf = (rule: Rule): Parts => ({
  ...partsOfRule(rule),
  audience: rule.audience,
  spellsFrom: rule.spellsFrom,
});

/** `base` is what the draft was begun from, `saved` what stands now. */
export function mergeDraft(base: Rule, draft: Rule, saved: Rule): Together {
  const [own, there] = [wholeOf(draft), wholeOf(saved)];
  // The roles are of the audience, which is compared whole.
  const lines = compareParts(wholeOf(base), own, there).filter((l) => l.part !== 'roles');
  const of = (state: PartLine['state']) => lines.filter((l) => l.state === state);
  const both = of('conflict');
  const picks = Object.fromEntries(both.map((l) => [l.part, 'here' as const]));
  const { parts } = mergeParts(there, lines, picks);
  const { audience, spellsFrom } = parts as unknown as Pick<Rule, 'audience' | 'spellsFrom'>;
  return {
    rule: { ...ruleOfParts(saved, { ...parts, roles: audience.roles }), audience, spellsFrom },
    ...{ theirs: of('kept').map((l) => l.part), own: of('taken').map((l) => l.part), both },
  };
}
