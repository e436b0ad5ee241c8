/** What the other packages use of `time`. */
export * from './instant.ts';
export * from './duration.ts';
export * from './zone.ts';
export * from './calendar.ts';
export * from './stretches.ts';
export * from './localDate.ts';
export * from './rhythm.ts';
export * from './window.ts';
export * from './words.ts';
export * from './inParts.ts';
export * from './weekday.ts';
export * from './instantSchema.ts';
export * from './typedDate.ts';
