/** What the other packages use of `lookout`. */
export * from './brush.ts';
export * from './columns.ts';
export * from './distribution.ts';
export * from './gradebook.ts';
export * from './hints.ts';
export * from './itemQuestion.ts';
export * from './logFacts.ts';
export * from './overview.ts';
export * from './ruleMatches.ts';
export * from './story.ts';
export * from './table.ts';
export * from './view.ts';
