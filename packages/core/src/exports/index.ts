/** What the other packages use of `exports`. */
export * from './table.ts';
export * from './csvFile.ts';
export * from './courseTables.ts';
export * from './gradebookTable.ts';
export * from './lookoutTable.ts';
export * from './outcomesTable.ts';
export * from './mbox.ts';
export * from './termTable.ts';
export * from './termsTable.ts';
export * from './calendar.ts';
export * from './scenarioFile.ts';
export * from './rulesFile.ts';
