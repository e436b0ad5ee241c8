/** What the other packages use of `conditions`. */
export * from './condition.ts';
export * from './compare.ts';
export * from './evaluate.ts';
export * from './spells.ts';
export * from './evidence.ts';
export * from './evidenceWords.ts';
export * from './sentence.ts';
export * from './bounds.ts';
export * from './conflicts.ts';
export * from './names.ts';
export * from './sources.ts';
export * from './verdict.ts';
