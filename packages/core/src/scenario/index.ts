/** What the other packages use of `scenario`. */
export * from './format.ts';
export * from './run.ts';
export * from './jsonSchema.ts';
export * from './carried.ts';
