/** What the other packages use of `term`. */
export * from './report.ts';
export * from './reportData.ts';
