/** What the other packages use of `nudges`. */
export * from './message.ts';
export * from './byHand.ts';
export * from './delivery.ts';
export * from './silence.ts';
export * from './reply.ts';
export * from './urgency.ts';
export * from './logTitles.ts';
