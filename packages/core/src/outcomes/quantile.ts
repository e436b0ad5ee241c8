import jstat from 'jstat';

/** The standard normal quantile, for p in 0 to 1. */
export const quantile = (p: number): number => jstat.normal.inv(p, 0, 1);
