/** What the other packages use of `saying`. */
export * from './say.ts';
export * from './saidRule.ts';
export * from './said.ts';
export * from './withSaid.ts';
export * from './completions.ts';
