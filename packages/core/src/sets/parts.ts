/** What of a rule or a wording its copies in several courses have in common, part by part: what a set compares. */
import type { Rule, Step } from '../rules/rule.ts';
import type { Copy, Variant, Wording } from '../wording/wording.ts';

/** A document by its parts: `rhythm`, `steps[0]`, `copies[anyone]`. A part that is not there is nothing. */
export type DocumentParts = Readonly<Record<string, unknown>>;

/** Never its id, status, sections, exceptions and `spellsFrom`: those are each course's own. */
export function partsOfRule(rule: Rule): DocumentParts {
  const { name, note, label, when, rhythm, repeat, essential, weight } = rule;
  return {
    name,
    note,
    label,
    when,
    rhythm,
    roles: rule.audience.roles,
    repeat,
    essential,
    weight,
    ...Object.fromEntries(rule.steps.map((step, i) => [`steps[${i}]`, step])),
  };
}

/** The rule with these parts; all that is not compared stays as it is. */
export function ruleOfParts(rule: Rule, parts: DocumentParts): Rule {
  const of = parts as unknown as Omit<Rule, 'steps'> & Pick<Rule['audience'], 'roles'>;
  const { name, note, label, when, rhythm, roles, repeat, essential, weight } = of;
  return {
    ...rule,
    name,
    note,
    label,
    when,
    rhythm,
    repeat,
    essential,
    weight,
    audience: { ...rule.audience, roles },
    steps: listed<Step>(parts, 'steps'),
  };
}

/** All of it but its id. */
export function partsOfWording(wording: Wording): DocumentParts {
  const { name, purpose, subject, text, variants = [], copies = [], files = [], letter = null } = wording;
  return {
    name,
    purpose,
    subject,
    text,
    files,
    letter,
    ...Object.fromEntries(variants.map((variant, i) => [`variants[${i}]`, variant])),
    ...Object.fromEntries(copies.map((copy) => [`copies[${copy.to}]`, copy])),
  };
}

export function wordingOfParts(wording: Wording, parts: DocumentParts): Wording {
  const { name, purpose, subject, text, files, letter } = parts as unknown as Wording;
  return {
    ...wording,
    name,
    purpose,
    subject,
    text,
    files,
    letter,
    variants: listed<Variant>(parts, 'variants'),
    copies: listed<Copy>(parts, 'copies'),
  };
}

/** The parts of a list, in their order; one that was taken out leaves no gap. */
const listed = <T>(parts: DocumentParts, list: string): T[] =>
  Object.entries(parts).flatMap(([part, value]) =>
    part.startsWith(`${list}[`) && value !== undefined ? [value as T] : [],
  );
