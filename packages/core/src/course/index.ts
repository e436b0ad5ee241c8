/** What the other packages use of `course`. */
export * from './item.ts';
export * from './person.ts';
export * from './sender.ts';
export * from './sources.ts';
export { quoted } from './spokenName.ts';
export * from './mark.ts';
export * from './address.ts';
export * from './changes.ts';
export * from './course.ts';
export * from './bounds.ts';
export * from './edit.ts';
export { freeId } from './freeId.ts';
export { grouped } from './grouped.ts';
export * from './merge.ts';
