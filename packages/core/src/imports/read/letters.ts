/** Letter grades ([F11]): a course's own scale, else a common one. */

/** Percent of the points possible: common practice, no source. */
export const LETTERS: Readonly<Record<string, number>> = {
  'A+': 98,
  A: 95,
  'A-': 92,
  'B+': 88,
  B: 85,
  'B-': 82,
  'C+': 78,
  C: 75,
  'C-': 72,
  'D+': 68,
  D: 65,
  'D-': 62,
  F: 50,
};

/** Beside letters they stand for no grade. */
const BESIDE = new Set(['P', 'S', 'CR', 'NP', 'U', 'NC', 'NR', 'W', 'WP', 'WF', 'AU', 'I', 'IP']);

const letterText = (cell: string): string =>
  cell
    .trim()
    .toUpperCase()
    .replace(/[‐‑‒–—―−]$/, '-');

/** The percent that a letter represents; null for a word beside letters, undefined for neither. */
export function letterPercent(cell: string, scale: Readonly<Record<string, number>> | null): number | null | undefined {
  if (cell.length > 12) return undefined;
  const letter = letterText(cell);
  const own = scale ?? LETTERS;
  if (Object.hasOwn(own, letter)) return own[letter]!;
  return BESIDE.has(letter) ? null : undefined;
}
