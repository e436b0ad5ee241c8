/** What the other packages use of `starters`. */
export * from './starter.ts';
export * from './starters.ts';
export * from './starterFor.ts';
export * from './starterRule.ts';
