/** What the other packages use of `activity`. */
export * from './event.ts';
export * from './actCode.ts';
export * from './told.ts';
export * from './keys.ts';
export * from './history.ts';
export * from './columns.ts';
export * from './daily.ts';
export * from './presenceKnown.ts';
