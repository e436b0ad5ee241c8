/** Where a value is among the class, in plain words. */

/** A word is said where at least this share of the others lies on one side. */
const MOST = 0.75;

/**
 * "more than most of the class" where at least three quarters of `others` lie below the value, "less than …" where they lie above;
 * null in between, and where fewer than eight are known: of so few nobody says "most" (common practice, no source).
 */
export function amongClass(value: number, others: readonly number[]): string | null {
  if (others.length < 8) return null;
  if (others.filter((o) => o < value).length >= MOST * others.length) return 'more than most of the class';
  if (others.filter((o) => o > value).length >= MOST * others.length) return 'less than most of the class';
  return null;
}
