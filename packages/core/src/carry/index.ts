/** What the other packages use of `carry`. */
export * from './shift.ts';
export * from './match.ts';
export * from './likely.ts';
export * from './rules.ts';
export * from './carry.ts';
export * from './finds.ts';
export * from './wordings.ts';
export * from './views.ts';
export * from './over.ts';
export * from './elsewhere.ts';
