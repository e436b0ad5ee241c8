/** Three ways: what a copy came from, what was changed here, what is there. Nothing is overwritten without a word. */
import { isSame } from '../course/changes.ts';
import type { DocumentParts } from './parts.ts';

/** `taken`: changed here alone. `kept`: changed there alone. `conflict`: on both sides, and nothing is preset. */
export type PartState = 'taken' | 'kept' | 'conflict';
export type PartSide = 'here' | 'there';
/** What somebody chose for a part, in place of what would become of it. */
export type PartChoices = Readonly<Record<string, PartSide>>;

/** A part that is not the same here and there. */
export interface PartLine {
  readonly part: string;
  readonly state: PartState;
  readonly origin: unknown;
  readonly here: unknown;
  readonly there: unknown;
}

/** All three in the terms of the course that `there` is of; in the order of the parts. */
export function compareParts(origin: DocumentParts, here: DocumentParts, there: DocumentParts): PartLine[] {
  const parts = new Set([...Object.keys(here), ...Object.keys(there)]);
  return [...parts].flatMap((part): PartLine[] => {
    const line = { part, origin: origin[part], here: here[part], there: there[part] };
    if (isSame(line.here, line.there)) return [];
    if (isSame(line.origin, line.there)) return [{ ...line, state: 'taken' }];
    if (isSame(line.origin, line.here)) return [{ ...line, state: 'kept' }];
    return [{ ...line, state: 'conflict' }];
  });
}

/** Which side a part is taken from; null for a conflict that nobody has decided. */
export const pickOf = (
  { part, state }: Omit<PartLine, 'origin' | 'here' | 'there'>,
  picks: PartChoices,
): PartSide | null =>
  (Object.hasOwn(picks, part) ? picks[part]! : null) ??
  (state === 'taken' ? 'here' : state === 'kept' ? 'there' : null);

/** What would stand there, and the parts that somebody still has to choose: they are as they are there. */
export function mergeParts(
  there: DocumentParts,
  lines: readonly PartLine[],
  picks: PartChoices = {},
): { readonly parts: DocumentParts; readonly open: readonly string[] } {
  const parts: Record<string, unknown> = { ...there };
  const open: string[] = [];
  for (const line of lines) {
    const pick = pickOf(line, picks);
    if (pick === null) open.push(line.part);
    if (pick === 'here') parts[line.part] = line.here;
  }
  return { parts, open };
}
