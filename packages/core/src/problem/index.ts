/** What the other packages use of `problem`. */
export * from './problem.ts';
export * from './range.ts';
export * from './rangeSchema.ts';
export * from './schemaBounds.ts';
