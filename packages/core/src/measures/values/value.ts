/** What a measure can be at an instant; null is *unknown* (engine M3, C3). */
export type Value = number | boolean | string | null;

/** Rounds to nine decimals, so that no threshold is missed by a binary fraction (engine M1). */
export const round9 = (x: number): number => (Number.isInteger(x) ? x : Math.round(x * 1e9) / 1e9);

/** `part` of `whole` in percent: multiplied before it is divided (engine M1). */
export const percent = (part: number, whole: number): number => round9((100 * part) / whole);
