/** What somebody may type next. */
import { GRAMMAR_WORDS } from '../course/grammarWords.ts';
import type { Course } from '../course/course.ts';
import { offers } from './offers.ts';
import { partAt } from './parts.ts';
import { wantClause } from './phrases.ts';
import { read, type SayingOptions } from './say.ts';
import { sourceOf } from './source.ts';

/** What may follow a text, or end its last word: titles first, then words; at most `most`. */
export function completionsOf(text: string, course: Course, options: SayingOptions = {}, most = 12): readonly string[] {
  const source = sourceOf(text, course, options);
  const { tokens } = source;
  if (text !== '' && tokens.length === 0) return [];
  const isOpen = text !== '' && !/\s$/.test(text);
  const from = isOpen ? tokens.at(-1)!.from : text.length;
  const at = isOpen ? tokens.length - 1 : tokens.length;
  const { problems } = read(source, text, options);
  // Behind a word that is not understood nothing is sure.
  if (problems.some((p) => p.code === 'unknownWord' && p.to <= from)) return [];
  const isIncomplete = problems.some((p) => p.code === 'incomplete' && p.to > p.from && p.to >= text.trimEnd().length);
  if (!isIncomplete || isOpen) {
    if (options.only?.includes('when') ?? true) wantClause(source, at);
    // A part is looked for wherever it may have begun.
    for (let start = 0; start <= at; start++) partAt(source, start, options.only);
  }
  const last = isOpen ? text.slice(from).toLowerCase() : '';
  const fits = (offer: string) =>
    last === '' ||
    offer
      .toLowerCase()
      .split(/\s+/)
      .some((w, i) => w.startsWith(last) && (i > 0 || offer.toLowerCase() !== last));
  const found = offers(source, at).filter(fits);
  // Behind what is complete, most people go on with a word.
  const isWord = (offer: string) => GRAMMAR_WORDS.has(offer);
  const isComplete = problems.length === 0 && !isOpen;
  return (isComplete ? [...found.filter(isWord), ...found.filter((o) => !isWord(o))] : found).slice(0, most);
}
