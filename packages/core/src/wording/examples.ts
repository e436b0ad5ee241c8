/** What every merge field says of one student, in a few words, for those who choose one. */
import { MERGE_FIELDS } from './fields.ts';
import type { FieldContext } from './fieldContext.ts';
import { blocksOf, lineText } from './markup.ts';

/** By the field's name; a field that has nothing to say of this student is not there. Items of a list stand in one line. */
export function fieldExamples(context: FieldContext): Readonly<Record<string, string>> {
  const said = MERGE_FIELDS.flatMap((field) => {
    const written = field.value(context);
    if (written === null) return [];
    return [[field.name, field.kind === 'value' ? written : inWords(written)] as const];
  });
  return Object.fromEntries(said.filter(([, words]) => words.trim() !== ''));
}

const inWords = (marked: string): string =>
  blocksOf(marked)
    .flatMap((block) => (block.kind === 'list' ? block.items : block.lines))
    // An address says nothing to whoever chooses the link.
    .map((line) => lineText(line.map((piece) => (piece.kind === 'link' ? { kind: 'text', text: piece.text } : piece))))
    .join(' · ');
