/** What the other packages use of `wording`. */
export * from './wording.ts';
export * from './fieldContext.ts';
export * from './fields.ts';
export * from './examples.ts';
export * from './lists.ts';
export * from './markup.ts';
export * from './skeleton.ts';
export * from './unfinished.ts';
export * from './together.ts';
export * from './render.ts';
export * from './check.ts';
export * from './checks.ts';
export * from './misfits.ts';
export * from './tags.ts';
