/** What the other packages use of `terms`. */
export * from './compare.ts';
export * from './words.ts';
