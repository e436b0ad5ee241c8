/** A text, ready to be read. */
import type { Course } from '../course/course.ts';
import { tokensOf } from '../course/spokenName.ts';
import { behindArticles, type Source } from './parsers.ts';
import { vocabularyOf, type OtherNames } from './vocabulary.ts';

/** Longer texts are no sentence. */
export const LONGEST_TEXT = 4000;

export function sourceOf(text: string, course: Course, others: OtherNames): Source {
  const tokens = text.length > LONGEST_TEXT ? [] : tokensOf(text);
  const vocabulary = vocabularyOf(course, others);
  const pastArticles = behindArticles(tokens);
  return { tokens, pastArticles, course, typed: text, vocabulary, wanted: new Map(), memo: new Map() };
}
