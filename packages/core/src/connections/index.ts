/** What the other packages use of `connections`. */
export * from './sourceData.ts';
export * from './oneRoster.ts';
export * from './classes.ts';
export * from './exchange.ts';
