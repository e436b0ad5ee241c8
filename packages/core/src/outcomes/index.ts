/** What the other packages use of `outcomes`. */
export * from './proportion.ts';
export * from './cameOfIt.ts';
export * from './fairTrial.ts';
export * from './hindsight.ts';
export * from './quartiles.ts';
export * from './replayed.ts';
export * from './returned.ts';
export * from './survival.ts';
export * from './textResults.ts';
export * from './timeToReturn.ts';
export * from './variedReplay.ts';
export * from './byGroup.ts';
export * from './worry.ts';
export type { Sign, SignCounts } from './signs/found.ts';
export * from './signs/signs.ts';
export * from './signs/pairs.ts';
export * from './signs/students.ts';
export { FEWEST, type SignsOf } from './signs/population.ts';
