/** What the other packages use of `measures`. */
export { daysBetween } from './catalogue/days.ts';
export * from './values/value.ts';
export * from './values/timeline.ts';
export * from './values/truth.ts';
export * from './values/fact.ts';
export * from './values/measure.ts';
export * from './values/range.ts';
export * from './values/callKey.ts';
export * from './facts/facts.ts';
export * from './catalogue/amongClass.ts';
export * from './catalogue/catalogue.ts';
export * from './facts/column.ts';
