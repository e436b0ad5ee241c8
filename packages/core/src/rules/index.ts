/** What the other packages use of `rules`. */
export * from './rule.ts';
export * from './names.ts';
export * from './touched.ts';
export * from './document.ts';
export * from './rhythmWords.ts';
export * from './sentence.ts';
export * from './asIfSince.ts';
export * from './differences.ts';
export * from './numbers.ts';
