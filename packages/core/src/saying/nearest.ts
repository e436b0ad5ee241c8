/** What somebody may have meant by a word that is not understood. */
import { distance } from 'fastest-levenshtein';

/** At most this many suggestions beside one problem ([Y8]). */
export const MOST_NEAR = 5;

/** The words or titles that look most like what was typed, nearest first. */
export function nearest(typed: string, known: Iterable<string>): readonly string[] {
  const most = Math.max(1, Math.floor(typed.length / 3));
  const said = typed.toLowerCase();
  return [...new Set(known)]
    .map((title) => ({
      title,
      far: Math.min(...[title, ...title.split(/[\s:,]+/)].map((w) => farFrom(w.toLowerCase(), said))),
    }))
    .filter(({ far }) => far <= most)
    .sort((a, b) => a.far - b.far)
    .slice(0, MOST_NEAR)
    .map(({ title }) => title);
}

/** A word that goes on from what was typed is as near as can be. */
const farFrom = (word: string, typed: string): number =>
  word.startsWith(typed) && typed.length > 1 ? 0 : distance(word, typed);
