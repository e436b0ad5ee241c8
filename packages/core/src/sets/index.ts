/** What the other packages use of `sets`. */
export * from './parts.ts';
export * from './threeWays.ts';
export * from './copies.ts';
export * from './words.ts';
export * from './together.ts';
