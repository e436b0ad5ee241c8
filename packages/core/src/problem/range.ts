/** The numbers that something may be: read by the code that parses it, by its field, and by the code that drags it. */
export interface Range {
  readonly whole: boolean;
  /** Both ends belong to it; null for no end. */
  readonly min: number | null;
  readonly max: number | null;
}

export const wholeFrom = (min: number, max: number | null): Range => ({ whole: true, min, max });
export const numberFrom = (min: number | null, max: number | null): Range => ({ whole: false, min, max });

/** Why a number is not of a range, in words for its field; null where it is. */
export function outOfRange(n: number, { whole, min, max }: Range): string | null {
  if (!Number.isFinite(n)) return 'Type a number';
  if (whole && !Number.isInteger(n)) return 'Type a whole number';
  if (min !== null && n < min) return atLeastWords(min);
  if (max !== null && n > max) return atMostWords(max);
  return null;
}

export const atLeastWords = (n: number): string => `At least ${n.toLocaleString('en-US')}`;
export const atMostWords = (n: number): string => `At most ${n.toLocaleString('en-US')}`;

/** The nearest number of the range. */
export function intoRange(n: number, { whole, min, max }: Range): number {
  const near = Math.min(max ?? Infinity, Math.max(min ?? -Infinity, n));
  return whole ? Math.round(near) : near;
}
