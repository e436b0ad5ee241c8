/** What the other packages use of `shelf`. */
export * from './courseWords.ts';
export * from './taking.ts';
