import { p } from '@mikro-orm/core';

/** A moment as epoch milliseconds. */
export const instantColumn = () => p.bigint('number');
