/**
 * Whether a text says anything yet: the salutation and the signature that a message begins with are not a message. A reading of its
 * own: fields that name or sign somebody, words of greeting and closing, and what is no letter or digit say nothing.
 */

import type { Problem } from '../problem/problem.ts';
import { textsOf, type Wording } from './wording.ts';

/** Fields that stand in a salutation or a signature; all others are content. */
const NAMING =
  /\{\{-?\s*(?:student\.(?:first|last|full)_name|reader\.name|sender\.(?:name|signature)|course\.(?:code|title))\b[^{}]*\}\}/g;
/** A condition's own tags; what is between them counts. */
const TAGS = /\{%[^{}%]*%\}/g;
const EMPTY_WORDS: ReadonlySet<string> = new Set(
  'dear hello hi hey good morning afternoon evening warmly best regards kind wishes sincerely yours truly cheers thanks thank you all'.split(
    ' ',
  ),
);

/** `signature` as it would be written out, in case somebody typed it. */
export function saysNothing(text: string, signature = ''): boolean {
  const rest = text
    .replace(NAMING, ' ')
    .replace(TAGS, ' ')
    .replace(signature.trim() === '' ? '\0' : signature, ' ');
  // A list, a link or a picture is something.
  if (/\{\{|!\[|\]\(/.test(rest)) return false;
  const words = rest.toLowerCase().match(/[\p{L}\p{N}]+/gu) ?? [];
  return words.every((word) => EMPTY_WORDS.has(word));
}

/** The texts of a wording that say nothing yet, each by its place; `signature` as the sender writes it out. */
export function emptyTexts(wording: Wording, signature = ''): Problem[] {
  const empty = (path: string, text: string, which: string): Problem[] =>
    saysNothing(text, signature)
      ? [
          {
            path,
            code: 'nothingWritten',
            message: `${which} of “${wording.name}” has nothing between salutation and signature yet`,
          },
        ]
      : [];
  const several = (wording.variants ?? []).length > 0;
  return [
    ...textsOf(wording).flatMap(({ text }, i) =>
      empty(i === 0 ? 'text' : `variants[${i - 1}].text`, text, several ? `Text ${i + 1}` : 'The text'),
    ),
    ...(wording.copies ?? []).flatMap(({ text }, i) =>
      empty(`copies[${i}].text`, text, `Text ${i + 1} for third parties`),
    ),
  ];
}
