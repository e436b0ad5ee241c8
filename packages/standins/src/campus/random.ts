/** Repeatable chance: the same words give the same number, so a demo is the same on every machine. */

/** A number in [0, 1) from any words (FNV-1a, then a 32-bit finaliser). */
export function chance(...words: readonly (string | number)[]): number {
  let h = 0x811c9dc5;
  for (const c of words.join('\u0001')) {
    h ^= c.codePointAt(0)!;
    h = Math.imul(h, 0x01000193);
  }
  h ^= h >>> 16;
  h = Math.imul(h, 0x85ebca6b);
  h ^= h >>> 13;
  h = Math.imul(h, 0xc2b2ae35);
  h ^= h >>> 16;
  return (h >>> 0) / 4294967296;
}

/** Between `low` and `high`, from words. */
export const between = (low: number, high: number, ...words: readonly (string | number)[]): number =>
  low + (high - low) * chance(...words);
