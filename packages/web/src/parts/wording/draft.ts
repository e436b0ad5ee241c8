/** A wording being written: which of its texts is in hand, and pure changes to it. */
import type { CopyReader, Variant, Wording } from '@zest-bell/core/wording';

/** One of the student's texts, or the words for a third party. */
export interface TextPlace {
  readonly kind: 'text' | 'copy';
  readonly index: number;
}

export const FIRST: TextPlace = { kind: 'text', index: 0 };

/** The beginning of the paths under which problems of a place are told. */
export function baseOf({ kind, index }: TextPlace): string {
  if (kind === 'copy') return `copies[${index}].`;
  return index === 0 ? '' : `variants[${index - 1}].`;
}

export function wordsAt(draft: Wording, { kind, index }: TextPlace): Variant {
  const first = { subject: draft.subject, text: draft.text };
  if (kind === 'copy') return draft.copies?.[index] ?? first;
  return index === 0 ? first : (draft.variants?.[index - 1] ?? first);
}

export function withWords(draft: Wording, place: TextPlace, part: Partial<Variant>): Wording {
  const { kind, index } = place;
  if (kind === 'text' && index === 0) return { ...draft, ...part };
  const changed = <T extends Variant>(all: readonly T[] = [], at: number): T[] =>
    all.map((v, i) => (i === at ? { ...v, ...part } : v));
  return kind === 'copy'
    ? { ...draft, copies: changed(draft.copies, index) }
    : { ...draft, variants: changed(draft.variants, index - 1) };
}

/** Another text, begun as the one in hand. */
export const withText = (draft: Wording, from: TextPlace): Wording => {
  const { subject, text } = wordsAt(draft, from);
  return { ...draft, variants: [...(draft.variants ?? []), { subject, text }] };
};

const NAMES_THEM = 'Dear {{ reader.name }},\n\n';

/** Words for a third party, begun with a greeting of their own. */
export const withCopy = (draft: Wording, to: CopyReader): Wording => ({
  ...draft,
  copies: [
    ...(draft.copies ?? []),
    {
      to,
      subject: '{{ student.full_name }} in {{ course.code }}',
      text: `${NAMES_THEM}I have written to {{ student.full_name }}, who may need some help in {{ course.title }}.\n\n{{ sender.signature }}`,
    },
  ],
});

/** Without the text or the words at a place; the first text gives way to the second. */
export function without(draft: Wording, { kind, index }: TextPlace): Wording {
  if (kind === 'copy') return { ...draft, copies: draft.copies?.filter((_, i) => i !== index) };
  const [second, ...rest] = draft.variants ?? [];
  if (index > 0) return { ...draft, variants: draft.variants?.filter((_, i) => i !== index - 1) };
  return second ? { ...draft, ...second, variants: rest } : draft;
}

/** A reader as people say it: "advisors", "instructors", "any third party". */
export function readerWords(to: string): string {
  if (to === 'anyone') return 'any third party';
  if (to === 'instructor') return 'instructors';
  return to.startsWith('contact:') ? `${to.slice('contact:'.length)}s` : to.replace(/^address:/, '');
}

/** How a message by hand begins. */
export const BY_HAND: Variant = { subject: '', text: '{{ student.first_name }},\n\n\n\n{{ sender.signature }}' };
