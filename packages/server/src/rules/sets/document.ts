/** A copy as it is compared: a rule or a wording, by its parts. */
import type { Course } from '@zest-bell/core/course';
import type { SetKind } from '@zest-bell/core/exchange';
import { ruleDocument, type Rule } from '@zest-bell/core/rules';
import type { CarryProblem } from '@zest-bell/core/carry';
import {
  partsOfRule,
  partsOfWording,
  rulePartWords,
  ruleThere,
  wordingThere,
  type DocumentParts,
  type CopyMapping,
} from '@zest-bell/core/sets';
import type { FileRef, LetterSettings, Variant, Wording } from '@zest-bell/core/wording';
import { readDocument, RULE_FORMAT } from '../repository.ts';

export type SetDocument = { readonly rule: Rule } | { readonly wording: Wording };

/** As it is stored with a version of the set. */
export function storedOf(document: SetDocument, { timeZone }: Course): object {
  if ('wording' in document) return document.wording;
  const { status: _status, ...rule } = ruleDocument(document.rule, timeZone) as { status: unknown };
  return rule;
}

export const readStored = (kind: SetKind, stored: object): SetDocument =>
  kind === 'wording' ? { wording: stored as Wording } : { rule: readDocument(stored, RULE_FORMAT, 'paused') };

export const partsOf = (document: SetDocument): DocumentParts =>
  'rule' in document ? partsOfRule(document.rule) : partsOfWording(document.wording);

/** The same in the terms of another course. `wording` gives the wording there. */
export function documentThere(
  document: SetDocument,
  way: CopyMapping,
  wording: (key: string) => string,
): { readonly document: SetDocument; readonly problems: readonly CarryProblem[] } {
  if ('wording' in document) return { document: { wording: wordingThere(document.wording, way) }, problems: [] };
  const { rule, problems } = ruleThere(document.rule, way, wording);
  return { document: { rule }, problems };
}

/** Parts of a wording that hold merge fields. */
export const isTextPart = (kind: SetKind, part: string): boolean =>
  kind === 'wording' && /^(?:subject|text|letter|variants\[|copies\[)/.test(part);

/** What a part says, for people. */
export function partWords(
  kind: SetKind,
  part: string,
  value: unknown,
  course: Course,
  wording: (key: string) => string,
): string {
  if (kind === 'rule') return rulePartWords(part, value, course, wording);
  if (value === undefined || value === null) return '';
  if (part === 'files') return (value as readonly FileRef[]).map((f) => f.name).join('; ');
  if (part === 'letter') return `${(value as LetterSettings).fileName} (${(value as LetterSettings).page})`;
  if (typeof value === 'object') return `${(value as Variant).subject}\n\n${(value as Variant).text}`;
  return value as string;
}
